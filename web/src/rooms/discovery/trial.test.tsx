import { afterEach, beforeEach, expect, test, vi } from "vitest";
import type { Schemas } from "../../api/client";
import { me, type Shown, serverOf, show } from "../../parts/testing";
import { TrialPage } from "./TrialPage";

const went: unknown[] = [];
vi.mock("@tanstack/react-router", () => ({
  useParams: () => ({ trial: "6" }),
  useNavigate: () => (to: unknown) => void went.push(to),
  Link: (props: { children: unknown }) => <a href="#x">{props.children as never}</a>,
}));

let shown: Shown;
beforeEach(() => {
  went.length = 0;
});
afterEach(() => shown?.end());

type Step = Schemas["StepOut"];
const step = (n: number, verdict: string, more: Partial<Step> = {}): Step => ({
  step: `s${n}`,
  title: `Step ${n}`,
  verdict,
  says: `said ${n}`,
  advice: "",
  took_ms: 12,
  code: "",
  key: "",
  ...more,
});
const trial = (steps: Step[], more: Partial<Schemas["TrialOut"]> = {}): Schemas["TrialOut"] =>
  ({
    id: 6,
    name: "linux",
    credential: 2,
    protocol: "ssh",
    address: "10.60.4.21",
    route: "lab",
    outpost: "",
    state: "done",
    steps,
    read_with: 40,
    refused: 3,
    refusals: 0,
    used_by: ["night"],
    places: [],
    ...more,
  }) as Schemas["TrialOut"];
const answers = (held: object) => ({
  "GET /api/me": me("administrator"),
  "GET /api/trials/6": { body: held },
});
const passed = Array.from({ length: 8 }, (_, n) => step(n + 1, "passed"));

test("a trial that works says so, where it was tried from and where the credential is used", async () => {
  serverOf(answers(trial(passed, { outpost: "MV Tansy" })));
  shown = await show(<TrialPage />);
  await shown.sees("all steps done: it works");
  expect(shown.text()).toContain("from the outpost “MV Tansy”");
  expect(shown.all("ol [role=img]").map((m) => m.getAttribute("aria-label"))).toEqual(
    Array(8).fill("passed"),
  );
  expect(shown.text()).not.toContain("Renew the secret");
  expect(shown.one(".tag.bad").textContent).toBe("3");
});

test("where it stopped is said, what was not reached has no time, and the secret is renewed there", async () => {
  const steps = [
    step(1, "passed"),
    step(2, "failed", { advice: "Renew it.", took_ms: 88 }),
    step(3, "not reached"),
  ];
  const called = serverOf({
    ...answers(trial(steps, { refusals: 2 })),
    "POST /api/credentials/2/secret": { status: 204, body: undefined },
    "POST /api/trials": { body: trial([], { id: 7 }) },
  });
  shown = await show(<TrialPage />);
  await shown.sees("2 of 8 steps done when it stopped");
  expect(shown.text()).toContain("Renew it.");
  expect(shown.all("ol li").map((l) => l.lastElementChild?.textContent)).toEqual(["12 ms", "88 ms", ""]);
  expect(shown.text()).toContain("has refused this account 2 times running; Tarn stops at three");
  await shown.type("Password", "new secret");
  await shown.submit();
  expect(called.find((c) => c.call.endsWith("/secret"))?.body).toEqual({
    secrets: { password: "new secret" },
  });
  expect(called.find((c) => c.call === "POST /api/trials")?.body).toEqual({
    credential: 2,
    address: "10.60.4.21",
    route: "lab",
  });
  expect(went.at(-1)).toMatchObject({ params: { trial: "7" } });
});

test("a secret that is refused is kept in the form with the reason", async () => {
  serverOf({
    ...answers(trial([step(1, "failed")])),
    "POST /api/credentials/2/secret": {
      status: 422,
      body: { detail: "The key cannot be read.", field: "key", status: 422 },
    },
  });
  shown = await show(<TrialPage />);
  await shown.type("Password", "x");
  await shown.submit();
  await shown.sees("The key cannot be read.");
  expect(went).toEqual([]);
});

test.each([
  ["first-key", "ssh", "A key met for the first time", "ssh-keygen -lf"],
  ["another-key", "ssh", "Another key than before", "no password is sent to 10.60.4.21"],
  ["another-key", "winrm", "Another key than before", "SHA-256 of the public key of the certificate"],
])("%s over %s is compared first and then accepted", async (code, protocol, title, says) => {
  const called = serverOf({
    ...answers(trial([step(1, "failed", { code })], { protocol })),
    "POST /api/trials/6/key": { body: {} },
    "POST /api/trials": { body: trial([], { id: 8 }) },
  });
  shown = await show(<TrialPage />);
  await shown.sees(title);
  expect(shown.text()).toContain(says);
  await shown.click(shown.button("Accept this key and try again"));
  expect(called.some((c) => c.call === "POST /api/trials/6/key")).toBe(true);
  expect(went.at(-1)).toMatchObject({ params: { trial: "8" } });
});

test("while it runs what is done is counted, and nothing is offered yet", async () => {
  serverOf(answers(trial([step(1, "passed"), step(2, "failed")], { state: "running" })));
  shown = await show(<TrialPage />);
  await shown.sees("2 of 8 steps done");
  expect(shown.text()).toContain("trying …");
  for (const late of ["try again", "Renew the secret"]) expect(shown.text()).not.toContain(late);
});

test("whoever keeps no credentials sees the trial and renews nothing", async () => {
  serverOf({ ...answers(trial([step(1, "failed", { code: "first-key" })])), "GET /api/me": me("operator") });
  shown = await show(<TrialPage />);
  await shown.sees("1 of 8 steps done when it stopped");
  expect(shown.text()).not.toContain("Renew the secret");
  expect(shown.text()).not.toContain("Accept this key");
});

test("a trial that cannot be begun again says why", async () => {
  serverOf({
    ...answers(trial(passed)),
    "POST /api/trials": { status: 409, body: { detail: "“linux” was dropped.", status: 409 } },
  });
  shown = await show(<TrialPage />);
  await shown.click(shown.button("try again"));
  await shown.sees("“linux” was dropped.");
});
