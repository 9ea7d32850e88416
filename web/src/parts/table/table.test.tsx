import { afterEach, beforeEach, expect, test, vi } from "vitest";
import { type Shown, serverOf, show } from "../testing";
import type { Column } from "./column";
import { Table } from "./Table";

let shown: Shown;
beforeEach(() => localStorage.clear());
afterEach(() => {
  shown.end();
  vi.restoreAllMocks();
});

interface Pier {
  id: number;
  name: string;
  berths: number | null;
  toll: string;
  open: boolean;
}

const PIERS: Pier[] = [
  { id: 1, name: "Pier 10", berths: 4, toll: "9.50", open: true },
  { id: 2, name: "Pier 9", berths: null, toll: "120.00", open: false },
  { id: 3, name: "Ärmel", berths: 12, toll: "20", open: true },
];

const COLUMNS: Column<Pier>[] = [
  { key: "name", label: "Name", of: (p) => p.name, cell: (p) => <a href={`#${p.id}`}>{p.name}</a> },
  { key: "berths", label: "Berths", of: (p) => p.berths, num: true },
  { key: "toll", label: "Toll", of: (p) => p.toll, cell: (p) => `${p.toll} EUR`, num: true },
  { key: "open", label: "Open", of: (p) => p.open, spare: true },
  { key: "do", label: "", cell: (p) => <button type="button">Close {p.name}</button> },
];

const names = () => shown.all("tbody tr td a").map((a) => a.textContent);
const heads = () => shown.all("th[aria-sort] > button").map((b) => b.textContent?.trim());
const press = (element: Element, key: string, more: object = {}) =>
  shown.act(() => element.dispatchEvent(new KeyboardEvent("keydown", { key, bubbles: true, ...more })));

function piers(rows = PIERS, acts = false) {
  return (
    <Table
      list="piers"
      label="Piers"
      rows={rows}
      columns={COLUMNS}
      rowKey={(p) => p.id}
      acts={acts ? (ticked) => <i>{ticked.map((p) => p.name).join("+")}</i> : undefined}
    />
  );
}

test("a click on a heading sorts, by what a row says and not by how it is drawn; a third gives the order back", async () => {
  shown = await show(piers());
  expect(names()).toEqual(["Pier 10", "Pier 9", "Ärmel"]);
  await shown.click(shown.button("Name"));
  expect(names()).toEqual(["Ärmel", "Pier 9", "Pier 10"]);
  expect(shown.all("th[aria-sort=ascending]").length).toBe(1);
  await shown.click(shown.button("Name ↑"));
  expect(names()).toEqual(["Pier 10", "Pier 9", "Ärmel"]);
  await shown.click(shown.button("Name ↓"));
  expect(names()).toEqual(["Pier 10", "Pier 9", "Ärmel"]);
  await shown.click(shown.button("Toll")); // of numbers the largest come first
  expect(names()).toEqual(["Pier 9", "Ärmel", "Pier 10"]);
});

test("what is not known stands last, whichever way a list is sorted", async () => {
  shown = await show(piers());
  await shown.click(shown.button("Berths"));
  expect(names()).toEqual(["Ärmel", "Pier 10", "Pier 9"]);
  await shown.click(shown.button("Berths ↓"));
  expect(names()).toEqual(["Pier 10", "Ärmel", "Pier 9"]);
});

test("columns are chosen and moved, are so the next time, and come back as they came", async () => {
  shown = await show(piers());
  expect(heads()).toEqual(["Name", "Berths", "Toll"]);
  const box = (label: string) =>
    shown
      .all("label")
      .find((l) => l.textContent === label)
      ?.querySelector("input") as HTMLInputElement;
  await shown.menu("This list");
  await shown.click(box("Open"));
  await shown.click(box("Berths"));
  const toll = shown.all("th").find((h) => h.textContent?.startsWith("Toll")) as HTMLElement;
  await press(toll, "ArrowLeft", { altKey: true });
  await press(toll, "ArrowLeft", { altKey: true });
  shown.end();
  shown = await show(piers());
  expect(heads()).toEqual(["Toll", "Name", "Open"]);
  expect(shown.all("tbody tr")[0]?.textContent).toBe("9.50 EURPier 10yesClose Pier 10");
  await shown.menu("This list");
  await shown.click(shown.button("As it came"));
  expect(heads()).toEqual(["Name", "Berths", "Toll"]);
});

test("a width is drawn by key, kept, and given back by two clicks", async () => {
  shown = await show(piers());
  const edge = () => shown.all("th hr")[0] as HTMLElement;
  await press(shown.all("th")[0] as Element, "ArrowRight", { altKey: true, shiftKey: true });
  const width = () => (shown.all("th")[0] as HTMLElement).style.width;
  expect(width()).toBe("56px");
  expect(JSON.parse(localStorage.getItem("list.piers") ?? "{}").sizes).toEqual({ name: 56 });
  await shown.act(() => edge().dispatchEvent(new MouseEvent("dblclick", { bubbles: true })));
  expect(width()).toBe("");
});

test("what another program left in a list's layout is let go", async () => {
  localStorage.setItem("list.piers", "{nonsense");
  shown = await show(piers());
  expect(heads()).toEqual(["Name", "Berths", "Toll"]);
  expect(localStorage.getItem("list.piers")).toBeNull();
});

test("rows are walked, ticked in ranges and opened by key", async () => {
  shown = await show(piers(PIERS, true));
  const row = (n: number) => shown.all("tbody tr")[n] as HTMLElement;
  row(0).focus();
  await press(row(0), "x");
  await press(row(0), "ArrowDown", { shiftKey: true });
  expect(document.activeElement).toBe(row(1));
  expect(shown.text()).toContain("2 rows ticked");
  expect(shown.one("i").textContent).toBe("Pier 10+Pier 9");
  await press(row(1), "End");
  expect(document.activeElement).toBe(row(2));
  await press(row(2), "a", { ctrlKey: true });
  expect(shown.text()).toContain("3 rows ticked");
  await press(row(2), "Escape");
  expect(shown.text()).not.toContain("ticked");
  const opened = vi.fn((e: Event) => e.preventDefault());
  document.addEventListener("click", opened);
  await press(row(2), "Enter");
  document.removeEventListener("click", opened);
  expect(opened.mock.calls.map(([e]) => (e.target as HTMLElement).textContent)).toEqual(["Ärmel"]);
});

test("boxes tick by Shift too; a row that went is ticked no more", async () => {
  shown = await show(piers(PIERS, true));
  const boxes = () => shown.all("tbody input[type=checkbox]");
  await shown.click(boxes()[0] as HTMLElement);
  await shown.act(() =>
    boxes()[2]?.dispatchEvent(new MouseEvent("click", { bubbles: true, shiftKey: true })),
  );
  expect(shown.text()).toContain("3 rows ticked");
  await shown.again(piers(PIERS.slice(0, 2), true));
  expect(shown.text()).toContain("2 rows ticked");
});

test("what is ticked is copied with its headings, bare; all of it where nothing is", async () => {
  const copied: string[] = [];
  vi.stubGlobal("navigator", { ...navigator, clipboard: { writeText: (t: string) => copied.push(t) } });
  shown = await show(piers(PIERS, true));
  await press(shown.all("tbody tr")[1] as Element, "c", { ctrlKey: true });
  await press(shown.all("tbody tr")[1] as Element, "x");
  await shown.click(shown.button("Copy"));
  expect(copied).toEqual([
    "Name\tBerths\tToll\nPier 10\t4\t9.50\nPier 9\t\t120.00\nÄrmel\t12\t20",
    "Name\tBerths\tToll\nPier 9\t\t120.00",
  ]);
  vi.unstubAllGlobals();
});

test("a file is asked for with what is shown, sorted as it stands; a refusal is said", async () => {
  const calls = serverOf({
    "POST /api/reports/listed/xlsx": {
      status: 422,
      body: { title: "No", detail: "It is too long.", status: 422 },
    },
  });
  shown = await show(piers());
  await shown.click(shown.button("Name"));
  await shown.menu("This list");
  await shown.click(shown.button("Workbook (XLSX)"));
  expect(calls[0]?.body).toEqual({
    name: "Piers",
    columns: [
      { label: "Name", number: false },
      { label: "Berths", number: true },
      { label: "Toll", number: true },
    ],
    rows: [
      ["Ärmel", 12, "20"],
      ["Pier 9", null, "120.00"],
      ["Pier 10", 4, "9.50"],
    ],
  });
});

test("ten thousand rows are drawn as they are looked at, and all of them are copied", async () => {
  const many = Array.from({ length: 10_000 }, (_, n) => ({
    ...(PIERS[0] as Pier),
    id: n,
    name: `Pier ${n}`,
  }));
  shown = await show(piers(many));
  expect(shown.all("tbody tr").length).toBe(201);
  await shown.click(shown.button("9,800 rows more"));
  expect(shown.all("tbody tr").length).toBe(401);
});

test("columns may be called anything, and there may be none", async () => {
  const odd: Column<Pier>[] = [
    { key: "berths a pier", label: "Berths a pier", of: (p) => p.berths, num: true },
  ];
  const list = (columns: Column<Pier>[]) => (
    <Table list="odd" label="Odd" rows={PIERS} columns={columns} rowKey={(p) => p.id} />
  );
  shown = await show(list(odd));
  await shown.click(shown.button("Berths a pier"));
  expect(shown.all("tbody tr").map((r) => r.textContent)).toEqual(["12", "4", ""]);
  await shown.again(list([]));
  expect(shown.all("tbody tr").length).toBe(3);
});
