import { afterEach, expect, test, vi } from "vitest";
import { client, narrowed, ok, standingIn } from "./client";

afterEach(() => vi.unstubAllGlobals());

test("a question's own branch goes with its request, whatever the address bar says when it is sent", async () => {
  const sent: string[] = [];
  vi.stubGlobal("fetch", async (request: Request | string) => {
    sent.push(typeof request === "string" ? request : request.url);
    return new Response("[]", { status: 200, headers: { "Content-Type": "application/json" } });
  });
  window.history.replaceState(null, "", "/estate?in=place%3ASaltholm");
  const far = createFar();
  await standingIn("place:Gullhaven", () => ok(far.GET("/api/watches")));
  await standingIn("", () => ok(far.GET("/api/watches")));
  await ok(far.GET("/api/watches"));
  expect(sent.map((url) => new URL(url).searchParams.get("standing_in"))).toEqual([
    "place:Gullhaven",
    null,
    "place:Saltholm",
  ]);
  expect(narrowed("/api/x?y=1")).toBe("/api/x?y=1&standing_in=place%3ASaltholm");
});

/** The client asks a relative address, which a test has no page for. */
function createFar(): typeof client {
  return {
    ...client,
    GET: ((path: never, init: object) =>
      client.GET(path, { ...init, baseUrl: "http://tarn.test" } as never)) as never,
  };
}
