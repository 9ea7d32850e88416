import { afterEach, expect, test } from "vitest";
import type { Schemas } from "../api/client";
import type { Registry } from "../api/types";
import { type Shown, serverOf, show } from "../parts/testing";
import { HistorySection } from "./dossier/HistorySection";
import { ListSections } from "./dossier/ListSections";
import type { Item, Items } from "./dossier/Sections";

let shown: Shown;
afterEach(() => shown.end());

const column = (name: string, type: string, label = name, more = {}) => ({
  name,
  type,
  label,
  unit: "",
  none: "",
  ...more,
});
const lists: Registry["lists"] = [
  {
    name: "memory_modules",
    one: "memory module",
    many: "memory modules",
    heading: "Memory modules",
    columns: [
      column("slot", "text", "Slot"),
      column("size", "memory", "Size"),
      column("speed", "number", "Speed", { unit: "MT/s" }),
    ],
  },
  {
    name: "installs",
    one: "dated installation",
    many: "dated installations",
    heading: "Installed and last used",
    columns: [
      column("name", "text", "Name"),
      column("user", "text", "For", { none: "everyone" }),
      column("used", "day", "Used"),
    ],
  },
  {
    name: "tickets",
    one: "ticket",
    many: "tickets",
    heading: "Tickets",
    columns: [column("number", "text", "Ticket"), column("open", "yes/no", "Open")],
  },
  { name: "disks", one: "disk", many: "disks", heading: "", columns: [column("name", "text", "Name")] },
];
const registry = { "GET /api/fields": { body: { fields: [], groups: {}, bands: [], lists } } };
const item = (values: Partial<Item>): Item => ({
  source_kind: "sweep",
  since: "2026-11-01T10:00:00Z",
  ...values,
});

async function listed(items: Items) {
  serverOf(registry);
  shown = await show(<ListSections items={items} />);
}

test("a list is shown as Tarn describes it: each value in its unit, an empty one by its word", async () => {
  await listed({
    memory_modules: [
      item({ slot: "DIMM1", size: 8 * 2 ** 30, speed: 3200 }),
      item({ slot: "DIMM2", size: null, speed: null }),
    ],
    installs: [item({ name: "Tern Notes", user: "", used: "2026-09-17" })],
    tickets: [item({ number: "T-7", open: true, link: "https://desk.example/7" })],
  });
  await shown.sees("Memory modules, 2");
  const cells = shown.all("td:not([aria-hidden])").map((c) => c.textContent);
  expect(cells.slice(0, 6)).toEqual(["DIMM1", "8 GB", "3200 MT/s", "DIMM2", "", ""]);
  expect(cells.slice(6, 9)).toEqual(["Tern Notes", "everyone", expect.stringContaining("17 Sept")]);
  expect(cells.slice(9)).toEqual(["T-7", "yes"]);
  const link = shown.one("td a") as HTMLAnchorElement;
  expect([link.href, link.target, link.rel]).toEqual(["https://desk.example/7", "_blank", "noreferrer"]);
});

test("what has a place of its own or no items is no list, and a long one is folded", async () => {
  const many = Array.from({ length: 15 }, (_, n) => item({ number: `T-${n}`, open: n % 2 === 0 }));
  await listed({ disks: [item({ name: "sda" })], installs: [], tickets: many });
  await shown.sees("Tickets, 15");
  expect(shown.all("h2").map((h) => h.textContent)).toEqual(["Tickets, 15"]);
  expect(shown.all("tbody tr")).toHaveLength(12);
  await shown.click(shown.button("3 more"));
  expect(shown.all("tbody tr")).toHaveLength(15);
});

const change = (values: Partial<Schemas["ChangeOut"]>): Schemas["ChangeOut"] => ({
  at: "2026-11-20T08:00:00Z",
  section: "disks",
  thing: "sda",
  verb: "changed",
  before: "size 240 GB",
  after: "size 480 GB",
  ...values,
});

test("a line of the history names its list as Tarn calls its items, and sign-ins are asked for", async () => {
  serverOf(registry);
  const changes = [
    change({}),
    change({ section: "memory_modules", thing: "DIMM3", verb: "added", before: null, after: null }),
    change({ section: "software", thing: "Quill Office", verb: "updated", before: "12.0", after: "12.1" }),
    change({ section: "signins", thing: "una", verb: "added", before: null, after: null }),
  ];
  shown = await show(<HistorySection changes={changes} error={null} firstSeen="2026-01-01T00:00:00Z" />);
  await shown.sees("memory module DIMM3");
  expect(shown.text()).toContain("disk sda");
  expect(shown.text()).toContain("size 240 GB → size 480 GB");
  expect(shown.all("tr")).toHaveLength(3);
  await shown.click(shown.button("Show 1 sign-ins too"));
  expect(shown.all("tr")).toHaveLength(4);
});

test("an empty history says since when nothing has changed, and a failure is told", async () => {
  serverOf(registry);
  shown = await show(<HistorySection changes={[]} error={null} firstSeen="2026-01-01T00:00:00Z" />);
  expect(shown.text()).toContain("Nothing has changed since it was first seen, 1 January 2026");
  shown.end();
  shown = await show(
    <HistorySection changes={undefined} error={new Error("away")} firstSeen="2026-01-01T00:00:00Z" />,
  );
  expect(shown.text()).toContain("away");
});
