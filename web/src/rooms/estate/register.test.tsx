import { act } from "react";
import { afterEach, expect, test, vi } from "vitest";
import type { Schemas } from "../../api/client";
import type { FieldInfo, Row } from "../../api/types";
import { column } from "../../parts/ask/AskLine";
import { PastedNote } from "../../parts/ask/PastedNote";
import { copyTable } from "../../parts/table/copy";
import { me, type Shown, serverOf, show } from "../../parts/testing";
import { undoLast } from "../../parts/undo";
import { ActDialog } from "./ActDialog";
import { Cells } from "./Cells";
import { CrossCheck } from "./CrossCheck";
import { EditCell } from "./EditCell";
import { Heads } from "./Heads";
import { KeptViews } from "./KeptViews";
import { Strata } from "./Strata";
import { copyTicked } from "./ticking";

vi.mock("@tanstack/react-router", () => ({
  Link: (props: { children: unknown }) => <a href="#x">{props.children as never}</a>,
}));

let shown: Shown;
afterEach(() => shown?.end());

const plain = {
  "GET /api/me": me("administrator"),
  "GET /api/kinds": { body: { kinds: [{ name: "server" }, { name: "kiosk" }], fields: [], types: {} } },
  "GET /api/holders": { body: [] },
};
const field = (name: string, type: string, label: string) =>
  ({ name, type, label, meaning: label }) as FieldInfo;
const fields = new Map(
  [
    field("name", "text", "Name"),
    field("place", "text", "Place"),
    field("memory", "memory", "Memory"),
    field("last_seen", "moment", "Last seen"),
  ].map((f) => [f.name, f]),
);
const row = { id: 4, number: "A-00004", name: "salt-tix-01", place: "Saltholm", memory: 17179869184, marks: [],
  last_seen: "2026-11-20T08:00:00Z" } as unknown as Row; // biome-ignore format: one row

function press(element: HTMLElement, key: string, more: KeyboardEventInit = {}) {
  return act(async () => {
    element.dispatchEvent(new KeyboardEvent("keydown", { key, bubbles: true, cancelable: true, ...more }));
    await new Promise((r) => setTimeout(r, 20));
  });
}

test("a column of a spreadsheet is its first cells; one line is typed on with", () => {
  expect(column("salt-1\r\nsalt-2\tKiosk\r\n\r\n")).toEqual(["salt-1", "salt-2"]);
  expect(column("kind = server\n")).toEqual([]);
});

test("what was pasted and found nothing is said, and what several share", async () => {
  const pasted = { numbers: ["A-1", "A-2"], missing: ["pc-9"], several: { "HB-1": ["A-1", "A-2"] } };
  const close = vi.fn();
  shown = await show(<PastedNote pasted={pasted} close={close} />);
  expect(shown.text()).toContain("2 devices of what you pasted, in its order.");
  expect(shown.text()).toContain("1 word found nothing.");
  expect(shown.text()).toContain("HB-1 is shared by A-1, A-2: all of them are shown.");
  await shown.click(shown.button("Close"));
  expect(close).toHaveBeenCalled();
});

test("a cell keeps what is typed, takes a word back where it is emptied, and is left as it was by Esc", async () => {
  const leave = vi.fn();
  const called = serverOf({
    ...plain,
    "POST /api/decide": { body: { assets: 1, entry: 12 } },
    "POST /api/empty": { body: { assets: 1, entry: 13 } },
  });
  const cell = () => show(<EditCell row={row} field="place" label="Place" leave={leave} />);
  const said = () => called.filter((c) => c.call === "POST /api/decide").map((c) => c.body);
  shown = await cell();
  const box = () => shown.one("input[aria-label='Place of salt-tix-01']") as HTMLInputElement;
  const write = (text: string) =>
    act(async () => {
      Object.getOwnPropertyDescriptor(HTMLInputElement.prototype, "value")?.set?.call(box(), text);
      box().dispatchEvent(new Event("input", { bubbles: true }));
    });
  await write(" Gullhaven ");
  await press(box(), "Tab");
  expect(said()).toEqual([{ assets: [4], place: "Gullhaven" }]);
  expect(leave).toHaveBeenLastCalledWith(1);
  shown.end();
  shown = await cell();
  await write("");
  await press(box(), "Enter");
  expect(called.find((c) => c.call === "POST /api/empty")?.body).toEqual({ assets: [4], fields: ["place"] });
  shown.end();
  shown = await cell();
  await write("Elsewhere");
  await press(box(), "Escape");
  expect(said()).toHaveLength(1);
  expect(leave).toHaveBeenLastCalledWith(0);
});

test("the last thing done is undone by key, and once only", async () => {
  const leave = vi.fn();
  const called = serverOf({
    ...plain,
    "POST /api/decide": { body: { assets: 1, entry: 31 } },
    "POST /api/audit/31/undo": { body: {} },
  });
  shown = await show(
    <EditCell row={{ ...row, place: "" } as unknown as Row} field="place" label="Place" leave={leave} />,
  );
  await shown.click(shown.one("input"));
  const box = shown.one("input") as HTMLInputElement;
  await act(async () => {
    Object.getOwnPropertyDescriptor(HTMLInputElement.prototype, "value")?.set?.call(box, "Quay");
    box.dispatchEvent(new Event("input", { bubbles: true }));
  });
  await press(box, "Enter");
  undoLast();
  undoLast();
  await new Promise((r) => setTimeout(r, 30));
  expect(called.filter((c) => c.call === "POST /api/audit/31/undo")).toHaveLength(1);
});

test("headings sort, move and are sized, by hand and by key", async () => {
  const [setSort, move, size, tickAll] = [vi.fn(), vi.fn(), vi.fn(), vi.fn()];
  const heads = (sort: string) => (
    <Heads
      columns={["name", "place", "last_seen"]}
      fields={fields}
      sort={sort}
      template=""
      ticked="some"
      tickAll={tickAll}
      setSort={setSort}
      move={move}
      size={size}
    />
  );
  shown = await show(heads("place"));
  await shown.click(shown.button("Place ↑"));
  expect(setSort).toHaveBeenLastCalledWith("-place");
  await shown.click(shown.button("Name"));
  expect(setSort).toHaveBeenLastCalledWith("name");
  await press(shown.button("Place ↑"), "ArrowLeft", { altKey: true });
  expect(move).toHaveBeenLastCalledWith("place", 0);
  await press(shown.one("[aria-label='Width of Seen']"), "ArrowRight");
  expect(size).toHaveBeenLastCalledWith("last_seen", 56);
  await act(async () => {
    shown.one("[aria-label='Width of Name']").dispatchEvent(new MouseEvent("dblclick", { bubbles: true }));
  });
  expect(size).toHaveBeenLastCalledWith("name", null);
  expect((shown.one("[aria-label='Tick all that answer']") as HTMLInputElement).indeterminate).toBe(true);
  await shown.click(shown.one("[aria-label='Tick all that answer']"));
  expect(tickAll).toHaveBeenCalledOnce();
});

test("a row is ticked, its words narrow, and only whoever may changes its cells", async () => {
  const narrowed = "kind = server and place = Saltholm";
  const called = serverOf({ ...plain, "POST /api/filter/narrowed": { body: { text: narrowed } } });
  const [pick, edit, setFilter] = [vi.fn(), vi.fn(), vi.fn()];
  const cells = (may: boolean) => (
    <Cells
      row={row}
      picked={false}
      pick={pick}
      editing={null}
      edit={may ? edit : undefined}
      leave={vi.fn()}
      columns={["name", "place", "memory"]}
      fields={fields}
      template=""
      at={undefined}
      filter="kind = server"
      setFilter={setFilter}
    />
  );
  shown = await show(cells(true));
  await act(async () => {
    shown
      .one("[aria-label='Pick salt-tix-01']")
      .dispatchEvent(new MouseEvent("click", { bubbles: true, shiftKey: true }));
  });
  expect(pick).toHaveBeenLastCalledWith(true);
  await shown.click(shown.button("Saltholm"));
  expect(called.at(-1)?.body).toEqual({
    filter: "kind = server",
    condition: "place = Saltholm",
    how: "narrow",
  });
  expect(setFilter).toHaveBeenLastCalledWith(narrowed);
  await shown.click(shown.button("Change Place of salt-tix-01"));
  expect(edit).toHaveBeenLastCalledWith("place");
  expect(shown.text()).toContain("16 GB");
  shown.end();
  shown = await show(cells(false));
  expect(shown.all("button").map((b) => b.textContent)).toEqual(["Saltholm"]);
});

test("a part of a band narrows, widens what it narrowed, and leaves out with Alt; a refusal is said", async () => {
  const parts = [
    { label: "server", count: 3, filter: "kind = server", held: true },
    { label: "kiosk", count: 1, filter: "kind = kiosk", held: false },
  ];
  const called = serverOf({
    ...plain,
    "GET /api/strata": { body: [{ name: "kind", parts }] },
    "POST /api/filter/narrowed": { body: { text: "made" } },
  });
  const change = vi.fn();
  shown = await show(<Strata filter="kind = server" at={undefined} bands={["kind"]} change={change} />);
  await shown.sees("Server");
  const [server, kiosk] = shown.all("[aria-pressed]") as [HTMLElement, HTMLElement];
  expect([server, kiosk].map((b) => b.getAttribute("aria-pressed"))).toEqual(["true", "false"]);
  const how = () => called.at(-1)?.body;
  await shown.click(server);
  expect(how()).toEqual({ filter: "kind = server", condition: "kind = server", how: "widen" });
  await shown.click(kiosk);
  expect(how()).toEqual({ filter: "kind = server", condition: "kind = kiosk", how: "narrow" });
  await act(async () => {
    kiosk.dispatchEvent(new MouseEvent("click", { bubbles: true, altKey: true }));
  });
  expect(how()).toEqual({ filter: "kind = server", condition: "kind = kiosk", how: "exclude" });
  await vi.waitFor(() => expect(change.mock.calls).toEqual([["made"], ["made"], ["made"]]));
});

test("what is copied is a table a spreadsheet takes: headings, tabs, moments as days", async () => {
  const kept: string[] = [];
  vi.stubGlobal("navigator", { clipboard: { writeText: async (text: string) => void kept.push(text) } });
  await copyTable([["a\tb", "c"], ["d"]]);
  expect(kept).toEqual(["a b\tc\nd"]);
  serverOf({ "GET /api/assets": { body: { total: 1, of: 1, sentence: "", as_of: null, rows: [row] } } });
  await copyTicked(
    { filter: "", at: undefined, sort: "given" },
    ["A-00004"],
    ["name", "last_seen", "evidence"],
    fields,
  );
  const lines = kept.at(-1)?.split("\n") ?? [];
  expect(lines[0]).toBe("Name\tLast seen");
  expect(lines[1]).toMatch(/^salt-tix-01\t.*20/);
  vi.unstubAllGlobals();
});

test("what is emptied of a whole selection is sent apart from what is said of it", async () => {
  const called = serverOf({
    ...plain,
    "GET /api/tags": { body: {} },
    "GET /api/strata": { body: [] },
    "POST /api/empty": { body: { assets: 2, entry: 5 } },
    "POST /api/decide": { body: { assets: 3, entry: 6 } },
  });
  const close = vi.fn();
  shown = await show(<ActDialog filter="kind = server" total={3} close={close} />);
  expect(shown.button("Change 3 devices").disabled).toBe(true);
  await shown.type("Place", "Gullhaven");
  await shown.click(shown.all("input[type=checkbox]")[1] as HTMLElement);
  await shown.submit();
  const all = { assets: [], filter: "kind = server", expected: 3 };
  expect(called.find((c) => c.call === "POST /api/empty")?.body).toEqual({ ...all, fields: ["person"] });
  expect(called.find((c) => c.call === "POST /api/decide")?.body).toEqual({ ...all, place: "Gullhaven" });
  expect(close).toHaveBeenCalled();
});

test("a view is kept with what is looked at, and one of that name kept anew", async () => {
  const kept = { id: 3, name: "Servers", filter: "kind = server", columns: ["name"], sort: "-memory", bands: [], access: "all", made_by: "ines" }; // biome-ignore format: one view
  const called = serverOf({
    ...plain,
    "GET /api/views": { body: [kept] },
    "POST /api/views": { body: [kept] },
    "DELETE /api/views/3": { status: 403, body: { detail: "Only piet may change this.", status: 403 } },
  });
  const choose = vi.fn();
  const now = { filter: "kind = kiosk", columns: ["name", "place"], sort: "name", bands: ["place"] };
  shown = await show(<KeptViews now={now} choose={choose} />);
  await shown.menu("Views");
  await shown.sees("Keep this view");
  await shown.click(shown.button("Serverskind = server"));
  expect(choose).toHaveBeenLastCalledWith(kept);
  await shown.click(shown.button("Drop the view Servers"));
  await shown.click(shown.button("Keep this view"));
  await shown.type("Name", "Servers");
  expect(shown.text()).toContain("There is one of that name: it is kept anew.");
  await shown.submit();
  expect(called.find((c) => c.call === "POST /api/views")?.body).toEqual({
    ...now,
    name: "Servers",
    access: "all",
  });
});

const estimate = {
  known: 300,
  unseen: 12.4,
  low: 5.2,
  high: 21.8,
  method: "two sources",
  refusal: "",
  dependent: [],
};
const CHECKED: Schemas["CrossCheckOut"] = {
  total: 320,
  sources: [
    { name: "Saltholm", kind: "sweep", count: 250 },
    { name: "Company directory", kind: "directory", count: 120 },
  ],
  patterns: [
    { mask: 1, members: [0], count: 200 },
    { mask: 3, members: [0, 1], count: 50 },
  ],
  estimate,
  by_kind: [
    { ...estimate, label: "kiosk" },
    { ...estimate, label: "tablet", refusal: "Too few in common." },
  ],
  by_place: [{ ...estimate, unseen: 0.2, label: "Saltholm" }],
};

test("the cross-check says how many nobody has seen, and where it cannot say", async () => {
  serverOf({
    "GET /api/crosscheck": { body: CHECKED },
    "GET /api/crosscheck/devices": {
      body: [
        { asset: 4, name: "salt-tix-01", kind: "server", place: "Saltholm", known_to: [{ name: "Saltholm", kind: "sweep" }],
          unseen_by: [{ name: "Company directory", kind: "directory", reason: "It is in no domain.", remedy: "Join it.", where: "" }] },
      ], // biome-ignore format: one row
    },
    "GET /api/crosscheck/disagreements": {
      body: [{ field: "os_version", first: "12", second: "11", count: 2, devices: [{ asset: 4, first: "12", second: "11" }] }], // biome-ignore format: one row
    },
  });
  shown = await show(<CrossCheck filter="" at={undefined} />);
  await shown.sees("about 12");
  expect(shown.text()).toContain("between 5 and 22, nineteen times in twenty");
  expect(shown.text()).toContain("no estimate for 300");
  await shown.click(shown.button("by place"));
  expect(shown.text()).toContain("Saltholmnone beside 300");
  await shown.sees("It is in no domain.");
  expect(shown.text()).toContain("2 × os version: 12 against 11");
});

test("where sources have too little in common, no number is given", async () => {
  serverOf({
    "GET /api/crosscheck": {
      body: { ...CHECKED, estimate: { ...estimate, refusal: "Two sources share 3 devices." } },
    },
    "GET /api/crosscheck/devices": { body: [] },
    "GET /api/crosscheck/disagreements": { body: [] },
  });
  shown = await show(<CrossCheck filter="" at="2026-10-01" />);
  await shown.sees("Two sources share 3 devices.");
  expect(shown.text()).not.toContain("nineteen times");
  await shown.sees("every source that should see a device does");
});
