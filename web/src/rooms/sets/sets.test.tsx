import { afterEach, beforeEach, expect, test, vi } from "vitest";
import type { Schemas } from "../../api/client";
import { SetForm } from "../../parts/acts/SetForm";
import { me, type Shown, serverOf, show } from "../../parts/testing";
import { Phrases } from "./Phrases";
import { SetPage } from "./SetPage";
import { Sets } from "./Sets";

const went: unknown[] = [];
vi.mock("@tanstack/react-router", () => ({
  useParams: () => ({ set: "4" }),
  useSearch: () => ({}),
  useRouterState: () => "/sets",
  useNavigate: () => (to: unknown) => void went.push(to),
  Link: (props: { children: unknown; search?: { q?: string } }) => (
    <a href={`#${props.search?.q ?? ""}`}>{props.children as never}</a>
  ),
}));

let shown: Shown;
beforeEach(() => {
  went.length = 0;
});
afterEach(() => shown?.end());

const kept: Schemas["SetOut"] = {
  id: 4,
  name: "Crew desks",
  kind: "live",
  filter: "kind = workstation",
  members: [],
  folder: "Desks",
  note: "those of the crew",
  access: "all",
  made_by: "ines",
  version: 2,
  count: 31,
};
const named = (id: number, name: string | null) => ({
  id,
  number: `A-0000${id}`,
  name,
  kind: "workstation",
  place: "Saltholm",
  department: null,
});
const page: Schemas["SetPageOut"] = {
  ...kept,
  sentence: "assets whose kind is workstation",
  year: [
    { at: "2025-12-01T00:00:00Z", devices: 12 },
    { at: "2026-11-30T00:00:00Z", devices: 31 },
  ],
  uses: [{ what: "report", name: "Desks by age", where: "/reports/7" }],
  moved: {
    since: "2026-10-31T00:00:00Z",
    came: 2,
    left: 0,
    stayed: 29,
    came_rows: [named(1, "salt-pc-01"), named(2, null)],
    left_rows: [],
  },
};
const answers = {
  "GET /api/me": me("manager"),
  "GET /api/sets": {
    body: [kept, { ...kept, id: 5, name: "Servers", folder: "", note: "", kind: "address" }],
  },
  "GET /api/sets/4": { body: page },
  "GET /api/assets": { body: { total: 7, of: 40, sentence: "", as_of: null, rows: [] } },
  "GET /api/phrases": { body: [] as unknown[] },
};

test("a set's page tells who came and went, and within what; what uses it is one click away", async () => {
  const called = serverOf(answers);
  shown = await show(<SetPage />);
  await shown.sees("Who came and went");
  expect(shown.text()).toContain("29 devices in it on");
  expect(shown.text()).toContain("salt-pc-01");
  expect(shown.text()).toContain("A-00002"); // one without a name
  expect(shown.text()).toContain("None."); // nobody left
  expect(shown.one("a[href='/reports/7']").textContent).toBe("Desks by age");
  expect(shown.one("a[href='#in set \"Crew desks\"']").textContent).toBe("31 devices");
  await shown.click(shown.button("three months"));
  await shown.type("or since", "2026-06-01");
  await shown.act(() => undefined);
  const asked = called.filter((c) => c.call === "GET /api/sets/4").map((c) => c.query);
  expect(asked).toEqual(["?days=30", "?days=90", "?days=90&since=2026-06-01"]);
  expect(shown.button("three months").getAttribute("aria-pressed")).toBe("false");
});

test("sets stand in their folders, and two are laid side by side", async () => {
  const called = serverOf(answers);
  shown = await show(<Sets />);
  await shown.sees("In no folder");
  expect(shown.text()).toContain("by addresses");
  const questions = () => shown.all("a[href*='in set']").map((a) => a.getAttribute("href")?.slice(1));
  expect(questions()).toContain('in set "Crew desks" and not in set Servers');
  expect(questions()).toContain('in set "Crew desks" and in set Servers');
  await shown.type("The other set", "Crew desks");
  await shown.act(() => undefined);
  expect(questions()).toContain('in set "Crew desks" and not in set "Crew desks"');
  expect(called.some((c) => c.call === "GET /api/assets")).toBe(true);
});

test("a set picked by hand, and one by addresses, is changed by what it was made of", async () => {
  const called = serverOf({ ...answers, "PUT /api/sets/4": { body: kept } });
  const close = vi.fn();
  const picked = { ...kept, kind: "picked", filter: "number in (A-1, A-2)", members: ["A-1", "A-2"] };
  shown = await show(<SetForm held={picked} close={close} />);
  await shown.submit();
  const sent = () => called.at(-1)?.body as Schemas["SetIn"];
  expect(sent()).toMatchObject({ kind: "picked", picked: "A-1\nA-2", version: 2 });
  expect(close).toHaveBeenCalled();
  shown.end();
  const ranged = { ...kept, kind: "address", filter: "address in 10.1.0.0/24 or address in 10.2.0.0/24",
    members: ["10.1.0.0/24", "10.2.0.0/24"] }; // biome-ignore format: one set
  shown = await show(<SetForm held={ranged} close={close} />);
  await shown.submit();
  expect(sent()).toMatchObject({ kind: "address", ranges: ["10.1.0.0/24", "10.2.0.0/24"] });
});

test("a set is dropped only once that was meant", async () => {
  const called = serverOf({ ...answers, "DELETE /api/sets/4": { status: 204, body: undefined } });
  const asks = vi.fn().mockReturnValueOnce(false).mockReturnValue(true);
  vi.stubGlobal("confirm", asks);
  const close = vi.fn();
  shown = await show(<SetForm held={kept} close={close} />);
  await shown.click(shown.button("Drop"));
  expect(called.some((c) => c.call.startsWith("DELETE"))).toBe(false);
  await shown.click(shown.button("Drop"));
  expect(asks).toHaveBeenLastCalledWith("Drop the set “Crew desks”? The devices stay.");
  expect(called.some((c) => c.call === "DELETE /api/sets/4")).toBe(true);
  expect(close).toHaveBeenCalledOnce();
  expect(went).toEqual([{ to: "/sets", search: {} }]);
  vi.unstubAllGlobals();
});

test("a phrase is kept line by line, and one in use says why it stays", async () => {
  const phrase = { name: "suites", meaning: "office suites", values: ["Quill Office", "/^ember/"],
    products: ["a", "b", "c", "d", "e"], uses: [1, 2, 3, 4].map((n) => ({ what: "set", name: `S${n}`, where: `/sets/${n}` })) }; // biome-ignore format: one phrase
  const refused = { status: 422, body: { detail: "Set “S1” speaks of @suites.", status: 422 } };
  const called = serverOf({
    ...answers,
    "GET /api/phrases": { body: [phrase] },
    "PUT /api/phrases/suites": { body: phrase },
    "DELETE /api/phrases/suites": refused,
  });
  shown = await show(<Phrases />);
  await shown.sees("@suites");
  expect(shown.text()).toContain("a, b, c, d and 1 more");
  expect(shown.text()).toContain("and 1 other");
  await shown.click(shown.button("Change"));
  await shown.type("Words and patterns", "Quill Office\n\n  /^tern/ ");
  await shown.click(shown.button("Drop"));
  await shown.sees("Set “S1” speaks of @suites.");
  await shown.submit();
  expect(called.find((c) => c.call === "PUT /api/phrases/suites")?.body).toEqual({
    name: "suites",
    meaning: "office suites",
    values: ["Quill Office", "/^tern/"],
  });
});
