import { expect, test } from "vitest";
import { answerBy } from "../parts/testing.setup";
import { client, narrowed, ok, standingIn } from "./client";

test("a question's own branch goes with its request, whatever the address bar says when it is sent", async () => {
  const sent: (string | null)[] = [];
  answerBy(async (input) => {
    sent.push(new URL((input as Request).url).searchParams.get("standing_in"));
    return new Response("[]", { status: 200, headers: { "Content-Type": "application/json" } });
  });
  window.history.replaceState(null, "", "/estate?in=place%3ASaltholm");
  await standingIn("place:Gullhaven", () => ok(client.GET("/api/watches")));
  await standingIn("", () => ok(client.GET("/api/watches")));
  await ok(client.GET("/api/watches"));
  expect(sent).toEqual(["place:Gullhaven", null, "place:Saltholm"]);
  expect(narrowed("/api/x?y=1")).toBe("/api/x?y=1&standing_in=place%3ASaltholm");
  window.history.replaceState(null, "", "/");
});
