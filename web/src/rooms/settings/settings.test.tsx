import { afterEach, expect, test, vi } from "vitest";
import { me, type Shown, serverOf, show } from "../../parts/testing";
import { Settings } from "./Settings";

vi.mock("./Own", () => ({ Own: () => <p>my own account</p> }));
vi.mock("./People", () => ({ People: () => <p>the accounts</p> }));

let shown: Shown;
afterEach(() => shown?.end());

const entry = (id: number, more: object = {}) => ({
  id,
  at: 1_790_000_000 + id,
  who: "ines",
  verb: "adopted",
  thing: `device ${id}`,
  can_undo: false,
  undone: false,
  ...more,
});
const token = {
  id: 9,
  name: "nightly",
  scope: "read",
  made_at: 1_790_000_000,
  expires_at: null,
  used_at: null,
};
const answers = {
  "GET /api/me": me("administrator"),
  "GET /api/tokens": { body: [token] },
  "GET /api/failed-sign-ins": { body: [{ at: 1_790_000_000, name: "", address: "10.60.5.9" }] },
  "GET /api/audit": { body: [entry(3, { can_undo: true }), entry(2, { undone: true })] },
};

test("a token is made, shown once, and withdrawn", async () => {
  const called = serverOf({
    ...answers,
    "POST /api/tokens": { body: { ...token, token: "tarn_abc" } },
    "DELETE /api/tokens/9": { status: 204, body: undefined },
  });
  shown = await show(<Settings />);
  await shown.sees("nightly");
  await shown.type("Name of the token", "reports");
  await shown.type("What it reaches", "evidence");
  await shown.type("How long", "7");
  await shown.submit();
  expect(called.find((c) => c.call === "POST /api/tokens")?.body).toEqual({
    name: "reports",
    scope: "evidence",
    days: 7,
  });
  expect(shown.text()).toContain("Copy it now, it is not shown again: tarn_abc");
  await shown.click(shown.button("Withdraw"));
  expect(called.some((c) => c.call === "DELETE /api/tokens/9")).toBe(true);
});

test("a token that is refused says why and nothing is lost", async () => {
  serverOf({
    ...answers,
    "POST /api/tokens": { status: 422, body: { detail: "You have 20 tokens; withdraw one.", status: 422 } },
  });
  shown = await show(<Settings />);
  await shown.type("Name of the token", "reports");
  await shown.submit();
  await shown.sees("You have 20 tokens; withdraw one.");
  expect((shown.one("[aria-label='Name of the token']") as HTMLInputElement).value).toBe("reports");
});

test("what was done is undone where it can be, and earlier pages follow the last entry", async () => {
  const page = Array.from({ length: 50 }, (_, n) => entry(100 - n, { can_undo: n === 0 }));
  const called = serverOf({
    ...answers,
    "GET /api/audit": (_, query) => ({ body: query.includes("before") ? [entry(50)] : page }),
    "POST /api/audit/100/undo": { status: 409, body: { detail: "It was changed since.", status: 409 } },
  });
  shown = await show(<Settings />);
  await shown.sees("device 51");
  await shown.click(shown.button("Undo"));
  expect(called.some((c) => c.call === "POST /api/audit/100/undo")).toBe(true);
  await shown.click(shown.button("Earlier"));
  const before = called.filter((c) => c.call === "GET /api/audit").map((c) => c.query);
  expect(before).toEqual(["?limit=50", "?before=51&limit=50"]);
  expect(shown.text()).toContain("device 50");
  expect(shown.text()).not.toContain("Earlier"); // a page that is not full is the last
});

test("whoever still owes a second factor is shown that and nothing else", async () => {
  const mine = me("manager");
  serverOf({ ...answers, "GET /api/me": { body: { ...(mine.body as object), factor_wanted: true } } });
  shown = await show(<Settings />);
  expect(shown.one("[role=alert]").textContent).toContain("Your role asks for a second factor");
  expect(shown.text()).toContain("my own account");
  expect(shown.text()).not.toContain("Tokens for scripts");
});

test("a viewer sees tokens of their own and neither accounts nor what others did", async () => {
  serverOf({ ...answers, "GET /api/me": me("viewer") });
  shown = await show(<Settings />);
  await shown.sees("Tokens for scripts");
  for (const hidden of ["the accounts", "Failed sign-ins", "Audit trail"])
    expect(shown.text()).not.toContain(hidden);
});
