import { afterEach, expect, test, vi } from "vitest";
import { Papers } from "./Papers";
import { me, type Shown, serverOf, show } from "./testing";

let dial: string | undefined;
vi.mock("@tanstack/react-router", () => ({ useSearch: () => ({ at: dial }), useNavigate: () => vi.fn() }));

let shown: Shown;
afterEach(() => {
  dial = undefined;
  shown?.end();
});

const paper = { id: 5, text: "Hinge repaired", file_name: "invoice.pdf", size: 2048, made_by: "ines",
  made_at: "2026-03-01T10:00:00Z" }; // biome-ignore format: one paper
const note = { ...paper, id: 6, file_name: "", size: 0, text: "Ask the quay" };
const path = "/api/assets/3/papers";
const answers = (more: object = {}) => ({
  "GET /api/me": me("operator"),
  [`GET ${path}`]: { body: [paper, note] },
  "GET /api/csrf": { body: {} },
  ...more,
});

test("what is kept is listed with who kept it, and a file can be fetched", async () => {
  serverOf(answers());
  shown = await show(<Papers path={path} />);
  await shown.sees("Hinge repaired");
  const file = shown.one("a[download]");
  expect([file.getAttribute("href"), file.textContent]).toEqual(["/api/papers/5/file", "invoice.pdf"]);
  expect(shown.text()).toContain("ines, 1 Mar");
});

test("nothing is kept of nothing; a refusal is said and what was typed stays", async () => {
  const refused = { status: 422, body: { detail: "A note may have 5,000 characters.", status: 422 } };
  serverOf(answers({ [`POST ${path}`]: refused }));
  shown = await show(<Papers path={path} />);
  expect(shown.button("Keep").disabled).toBe(true);
  await shown.type("Note", "   ");
  expect(shown.button("Keep").disabled).toBe(true);
  await shown.type("Note", "a long story");
  await shown.submit();
  await shown.sees("A note may have 5,000 characters.");
  expect((shown.one("textarea") as HTMLTextAreaElement).value).toBe("a long story");
});

test("a paper is taken away by whoever may, and of the past by nobody", async () => {
  const called = serverOf(answers({ "DELETE /api/papers/6": { status: 204, body: undefined } }));
  shown = await show(<Papers path={path} />);
  await shown.click(shown.one("[aria-label='Take away Ask the quay']"));
  expect(called.some((c) => c.call === "DELETE /api/papers/6")).toBe(true);
  shown.end();
  dial = "2026-03-01";
  const then = serverOf(answers());
  shown = await show(<Papers path={path} />);
  await shown.sees("Hinge repaired");
  expect(then.find((c) => c.call === `GET ${path}`)?.query).toBe("?as_of=2026-03-01");
  expect(shown.all("button, form")).toEqual([]);
});

test("whoever only looks sees what is kept, nothing where nothing is, and the reason where it cannot be read", async () => {
  serverOf(answers({ "GET /api/me": me("viewer"), [`GET ${path}`]: { body: [] } }));
  shown = await show(<Papers path={path} />);
  expect(shown.text()).toBe("");
  shown.end();
  const refused = { status: 403, body: { detail: "These are another organisation's.", status: 403 } };
  serverOf(answers({ "GET /api/me": me("viewer"), [`GET ${path}`]: refused }));
  shown = await show(<Papers path={path} />);
  await shown.sees("These are another organisation's.");
});
