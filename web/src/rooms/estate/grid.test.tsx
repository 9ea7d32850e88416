import { act } from "react";
import { afterEach, beforeEach, expect, test, vi } from "vitest";
import type { FieldInfo } from "../../api/types";
import { me, type Shown, serverOf, show } from "../../parts/testing";
import { Register } from "./Register";

const went: unknown[] = [];
vi.mock("@tanstack/react-router", () => ({
  useNavigate: () => (to: unknown) => void went.push(to),
  useSearch: () => ({}),
  Link: (props: { children: unknown }) => <a href="#x">{props.children as never}</a>,
}));

let shown: Shown;
const copied: string[] = [];
beforeEach(() => {
  went.length = copied.length = 0;
  // The document of tests lays nothing out: rows are drawn for a window this large.
  vi.spyOn(Element.prototype, "clientHeight", "get").mockReturnValue(620);
  vi.spyOn(Element.prototype, "clientWidth", "get").mockReturnValue(1000);
  vi.stubGlobal("matchMedia", () => ({ matches: false, addEventListener() {}, removeEventListener() {} }));
  vi.stubGlobal("navigator", { clipboard: { writeText: async (text: string) => void copied.push(text) } });
});
afterEach(() => {
  shown?.end();
  vi.restoreAllMocks();
  vi.unstubAllGlobals();
});

const fields = new Map(
  ["name", "place", "number"].map((n) => [n, { name: n, type: "text", label: n, meaning: "", choices: [] } as unknown as FieldInfo]),
); // biome-ignore format: three fields
const row = (n: number) => ({
  id: n,
  number: `A-${n}`,
  name: `pc-${n}`,
  place: n % 2 ? "Saltholm" : "Oropol",
  marks: [],
});
const TOTAL = 250;
/** The register's pages; a question that names numbers is answered with those. */
const server = (role: Parameters<typeof me>[0] = "manager") =>
  serverOf({
    "GET /api/me": me(role),
    "GET /api/register/numbers": { body: Array.from({ length: TOTAL }, (_, n) => ({ id: n + 1, number: `A-${n + 1}` })) },
    "GET /api/kinds": { body: { kinds: [], fields: [], types: {} } },
    "GET /api/holders": { body: [] },
    "GET /api/assets": (_, query) => {
      const asked = new URLSearchParams(query);
      const named = [...(asked.get("filter") ?? "").matchAll(/A-(\d+)/g)].map((m) => row(Number(m[1])));
      const [from, limit] = [Number(asked.get("offset")), Number(asked.get("limit"))];
      const rows = named.length
        ? named
        : Array.from({ length: Math.min(limit, TOTAL - from) }, (_, n) => row(from + n + 1));
      return { body: { total: TOTAL, of: TOTAL, sentence: "", as_of: null, rows } };
    },
  }); // biome-ignore format: one server

const calls = () => ({ setFilter: vi.fn(), setPeek: vi.fn(), setSort: vi.fn(), setColumns: vi.fn() });
function grid(on: ReturnType<typeof calls>, more: Partial<Parameters<typeof Register>[0]> = {}) {
  return (
    <Register
      filter=""
      at={undefined}
      sort="name"
      total={TOTAL}
      columns={["name", "place"]}
      fields={fields}
      peeked={undefined}
      {...on}
      {...more}
    />
  );
}

async function press(key: string, more: KeyboardEventInit = {}) {
  await act(async () => {
    shown
      .one("[role=grid]")
      .dispatchEvent(new KeyboardEvent("keydown", { key, bubbles: true, cancelable: true, ...more }));
    await new Promise((r) => setTimeout(r, 30));
  });
}
const ticked = () =>
  shown
    .all("[role=status]")
    .map((s) => s.querySelector("b")?.textContent)
    .at(-1);

test("only what is seen is drawn and asked for, a page at a time", async () => {
  const called = server();
  shown = await show(grid(calls()));
  await shown.sees("pc-1");
  const drawn = shown.all("[role=row][data-asset]").length;
  expect(drawn).toBeGreaterThan(15);
  expect(drawn).toBeLessThan(60);
  const pages = called.filter((c) => c.call === "GET /api/assets").map((c) => new URLSearchParams(c.query));
  expect(pages.map((p) => [p.get("offset"), p.get("limit")])).toEqual([["0", "100"]]);
  expect(shown.one("[role=grid]").getAttribute("aria-rowcount")).toBe("250");
});

test("it is walked, opened, peeked at and ticked by keys alone", async () => {
  server();
  const on = calls();
  shown = await show(grid(on));
  await shown.sees("pc-1");
  await press("ArrowDown");
  await press("ArrowDown");
  await press(" ");
  expect(on.setPeek).toHaveBeenLastCalledWith(3);
  await press("Enter");
  expect(went.at(-1)).toMatchObject({ params: { asset: "3" } });
  await press("x");
  expect(ticked()).toBe("1 asset ticked");
  await press("PageDown", { shiftKey: true });
  expect(ticked()).toBe("21 assets ticked"); // from the third to where the page ended
  await press("Escape");
  expect(on.setPeek).toHaveBeenLastCalledWith(undefined);
  await press("ArrowUp");
  for (let n = 0; n < 30; n += 1) await press("ArrowUp");
  await press("Enter");
  expect(went.at(-1)).toMatchObject({ params: { asset: "1" } }); // no further than the first
});

test("all over all pages are ticked by a key, asked for as they are, and unticked", async () => {
  server();
  const on = calls();
  shown = await show(grid(on));
  await shown.sees("pc-1");
  await press("a", { ctrlKey: true });
  expect(ticked()).toBe("250 assets ticked");
  await shown.click(shown.button("Only these"));
  expect(on.setFilter.mock.calls[0]?.[0]).toMatch(/^number in \(A-1, A-2, .*A-250\)$/);
  await shown.click(shown.button("Clear"));
  expect(shown.all("[role=status]").length).toBe(0);
  await press("a", { metaKey: true });
  await shown.click(shown.one("[role=columnheader] input[type=checkbox]"));
  expect(shown.all("[role=status]").length).toBe(0);
});

test("what is ticked is copied as a table, and without a tick the row one stands on", async () => {
  server();
  shown = await show(grid(calls()));
  await shown.sees("pc-1");
  await press("ArrowDown");
  await press("c", { ctrlKey: true });
  expect(copied.at(-1)).toBe("name\tplace\npc-2\tOropol");
  await press("x");
  await press("ArrowDown");
  await press("x");
  await press("c", { metaKey: true });
  expect(copied.at(-1)).toBe("name\tplace\npc-2\tOropol\npc-3\tSaltholm");
});

test("a cell is edited from the keyboard by whoever may, and of the past by nobody", async () => {
  server();
  shown = await show(grid(calls()));
  await shown.sees("pc-1");
  await press("F2");
  expect(shown.all("[role=gridcell] :is(input:not([type=checkbox]), select)").length).toBe(1);
  shown.end();
  server();
  shown = await show(grid(calls(), { at: "2026-03-01" }));
  await shown.sees("pc-1");
  await press("F2");
  expect(shown.all("[role=gridcell] :is(input:not([type=checkbox]), select)").length).toBe(0);
  shown.end();
  server("viewer");
  shown = await show(grid(calls()));
  await shown.sees("pc-1");
  await press("F2");
  expect(shown.all("[role=gridcell] :is(input:not([type=checkbox]), select)").length).toBe(0);
});

test("another question begins at its first row, without the ticks of the one before", async () => {
  server();
  const on = calls();
  shown = await show(grid(on));
  await shown.sees("pc-1");
  await press("ArrowDown");
  await press("x");
  await shown.again(grid(on, { filter: "place = Oropol" }));
  expect(shown.all("[role=status]").length).toBe(0);
  await press("Enter");
  expect(went.at(-1)).toMatchObject({ params: { asset: "1" } });
});

test("where nothing answers the next step is said", async () => {
  server();
  shown = await show(grid(calls(), { total: 0 }));
  expect(shown.text()).toContain("Nothing has been adopted yet: start a sweep in Discovery");
  await shown.again(grid(calls(), { total: 0, filter: "kind = server" }));
  expect(shown.text()).toContain("Widen the question");
});
