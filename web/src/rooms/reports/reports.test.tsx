import { act } from "react";
import { afterEach, expect, test, vi } from "vitest";
import { me, type Shown, serverOf, show } from "../../parts/testing";
import { Composer } from "./Composer";
import { useRowWords } from "./composing";
import { GroupBars, Lines } from "./Lines";
import { Mailbox } from "./Mailbox";
import { Watches } from "./Watches";
import { WatchForm } from "./WatchForm";

let from: string | undefined;
vi.mock("@tanstack/react-router", () => ({
  useNavigate: () => vi.fn(),
  useSearch: () => ({ from }),
  Link: (props: { children: unknown }) => <a href="#x">{props.children as never}</a>,
}));

let shown: Shown;
afterEach(() => {
  from = undefined;
  shown.end();
});

const pause = (ms: number) => act(async () => void (await new Promise((r) => setTimeout(r, ms))));
const column = (name: string, type = "text") => ({ name, label: name, type });
const row = (values: unknown[], id: number | null = 1) => ({
  kind: "row",
  values,
  keys: [],
  said: "",
  rows: 0,
  id,
  details: [],
});
const group = (key: unknown, rows: number) => ({
  kind: "group",
  values: [],
  keys: [key],
  said: "sum of memory: 8",
  rows,
  id: null,
  details: [],
});
const plain = {
  "GET /api/organisations": { body: [] },
  "GET /api/me": me("operator"),
  "GET /api/reports/list": { body: [] },
};

test("lines show numbers, days and links, and a group's figures under it", async () => {
  shown = await show(
    <Lines
      name="Disks"
      report={{
        columns: [column("name"), column("memory", "memory"), column("seen", "moment")],
        blocks: [],
        lines: [
          row(["srv-1", 1234, "2026-11-23T10:00:00Z"]),
          row([null, null, null], 2),
          group("Saltholm", 2),
          { ...group("", 2), kind: "whole", keys: [] },
        ],
      }}
      at={undefined}
    />,
  );
  const rows = shown.all("tbody tr").map((r) => r.textContent);
  expect(rows[0]).toMatch(/srv-11,23423 Nov 2026/);
  expect(rows[1]).toBe("no name");
  expect(rows[2]).toBe("Saltholm 2 rows; sum of memory: 8");
  expect(rows[3]).toBe("All 2 rows; sum of memory: 8");
});

test("what is listed under a row stands under it, and an empty block does not", async () => {
  const blocks = [
    { label: "disks", columns: [column("name"), column("size", "bytes")] },
    { label: "ports", columns: [column("port", "number")] },
  ];
  const told = { ...row(["srv-1"]), details: [[["sda", 480]], []] };
  shown = await show(
    <Lines report={{ columns: [column("name")], blocks, lines: [told] }} at={undefined} name="Disks" />,
  );
  expect(shown.text()).toContain("disks");
  expect(shown.text()).toContain("sda480");
  expect(shown.text()).not.toContain("ports");
});

test("groups are drawn the largest first, and a single one is not", async () => {
  shown = await show(<GroupBars lines={[group("few", 1), group(null, 9)]} />);
  expect(shown.one("[role=img]").ariaLabel).toBe("Rows by group: none 9, few 1");
  shown.end();
  shown = await show(<GroupBars lines={[group("few", 1)]} />);
  expect(shown.all("[role=img]")).toEqual([]);
});

const of = (name: string, one: string, columns: object[]) => ({
  name,
  one,
  columns,
  over_days: false,
  filtered: true,
});
const COLUMNS = [
  of("asset", "device", [
    column("name"),
    column("kind"),
    column("place"),
    column("memory", "memory"),
    column("cores", "number"),
  ]),
  of("disks", "disk", [column("name"), column("size", "bytes"), column("asset.name")]),
];
const preview = {
  body: { sentence: "all assets", columns: [column("name")], lines: [row(["a"])], cut: false },
};

test("composing asks for the first rows at every step and keeps what was composed", async () => {
  const called = serverOf({
    ...plain,
    "GET /api/reports/rows": { body: COLUMNS },
    "POST /api/reports/preview": preview,
    "POST /api/reports/composed": { body: { key: "7" } },
  });
  shown = await show(<Composer />);
  expect(shown.text()).toContain("The first rows");
  await shown.type("Name", "Big ones");
  await shown.click(shown.button("+ memory"));
  await shown.click(shown.button("place: earlier"));
  await shown.click(shown.button("Take kind out"));
  await shown.type("Sorted by", "-memory");
  await shown.type("Add a figure", "sum memory");
  await shown.submit();
  const sent = called.find((c) => c.call === "POST /api/reports/composed")?.body as {
    name: string;
    definition: { columns: { field: string }[]; sort: string; totals: unknown[] };
  };
  expect(sent.definition.columns.map((c) => c.field)).toEqual(["name", "place", "memory"]);
  expect([sent.definition.sort, sent.definition.totals]).toEqual([
    "-memory",
    [{ function: "sum", column: "memory" }],
  ]);
  await shown.click(shown.button("Take memory out"));
  await pause(300);
  await shown.click(shown.button("+ cores"));
  await pause(300);
  const last = called.filter((c) => c.call.endsWith("preview")).at(-1)?.body as {
    definition: { sort: string; totals: unknown[] };
  };
  expect([last?.definition.sort, last?.definition.totals]).toEqual(["", []]);
});

test("a report that ships is copied, and what is wrong is said at its field while composing", async () => {
  from = "disks";
  const called = serverOf({
    ...plain,
    "GET /api/reports/rows": { body: COLUMNS },
    "GET /api/reports/shown/disks": {
      body: {
        key: "disks",
        name: "Disks",
        text: "",
        room: "Estate",
        ships: true,
        version: 0,
        definition: {
          row: "disks",
          columns: [{ field: "name", formula: "", label: "" }],
          filter: "",
          inner: "sise > 1",
          group_by: [],
          totals: [],
          sort: "",
          days: 7,
          plot: "",
        },
      },
    },
    "POST /api/reports/preview": {
      status: 422,
      body: { detail: "disks[…] has no field “sise”.", field: "inner" },
    },
    "POST /api/reports/composed": { body: { key: "8" } },
  });
  shown = await show(<Composer />);
  await pause(80);
  expect(shown.all("[role=alert]").map((e) => e.textContent)).toEqual(["disks[…] has no field “sise”."]);
  await shown.submit();
  const kept = called.filter((c) => c.call === "POST /api/reports/composed");
  expect(kept.map((c) => (c.body as { name: string }).name)).toEqual(["Disks, changed"]);
});

const WATCH = {
  id: 3, name: "New devices", report: "new-week", rule: "FREQ=DAILY;BYHOUR=7;BYMINUTE=0", condition: "over", number: 4, to: ["ines@skerrivane.example"],
  attach: "xlsx", quiet: "20-6", on: true, insists: false, gathered: false, share: null, secret: "", version: 2, organisation: null, said: "every day at 07:00", writes_when: "there are more rows than 4", report_name: "New devices this week",
  asked_at: 1_790_000_000, next_at: 1_790_080_000, rows: 12, trouble: "There is no report “x”.", owner: "ines",
  letters: [
    { id: 1, made_at: 1_790_000_000, due_at: 1_790_000_000, sent_at: null, subject: "New devices: 5 rows", to: ["ines@skerrivane.example"], acknowledged_by: "", tries: 2, trouble: "ConnectionRefusedError" },
  ],
}; // biome-ignore format: one object

test("a watch says what it asks, when it writes, and what went wrong", async () => {
  serverOf({ ...plain, "GET /api/watches": { body: [WATCH] } });
  shown = await show(<Watches />);
  expect(shown.text()).toContain(
    "writes to ines@skerrivane.example when there are more rows than 4, with the rows as XLSX",
  );
  expect(shown.text()).toContain("quiet from 20 to 6 o’clock");
  expect(shown.one("[role=alert]").textContent).toContain("It goes on being asked.");
  expect(shown.text()).toContain("not yet, 2 tries: ConnectionRefusedError");
});

test("a watch is changed with a rule of one's own and several addresses", async () => {
  const called = serverOf({
    ...plain,
    "PUT /api/watches/3": { body: { ...WATCH, said: "every 2 days at 06:00" } },
  });
  shown = await show(<WatchForm held={WATCH} report="" name="" close={vi.fn()} />);
  await shown.type("Asks", "days");
  await shown.type("To", "ines@skerrivane.example; piet@skerrivane.example");
  await shown.submit();
  const sent = called.find((c) => c.call.startsWith("PUT"))?.body as {
    rule: string;
    to: string[];
    version: number;
    number: number;
  };
  expect(sent.rule).toBe("FREQ=WEEKLY;BYDAY=MO;BYHOUR=7;BYMINUTE=0");
  expect([sent.to.length, sent.version, sent.number]).toEqual([2, 2, 4]);
});

test("the mailbox shows the newest letter and opens another", async () => {
  const mail = {
    id: "2",
    sender: "tarn@x",
    to: "ines@x",
    at: "Mon, 23 Nov 2026 07:00:00 +0000",
    subject: "Second",
    text: "two",
    attached: ["a.xlsx"],
  };
  serverOf({
    "GET /api/mailbox": { body: [mail, { ...mail, id: "1", subject: "First", text: "one", attached: [] }] },
  });
  shown = await show(<Mailbox />);
  expect(shown.one("article").textContent).toContain("Secondfrom tarn@x to ines@x, with a.xlsxtwo");
  await shown.click(shown.all("li button")[1] as HTMLElement);
  expect(shown.one("pre").textContent).toBe("one");
});

function Words({ rows }: { rows: string[] }) {
  const words = useRowWords();
  return <p>{rows.map(words).join(", ")}</p>;
}

test("a row is a word of its own, of a list what Tarn calls its items", async () => {
  const kinds = [of("asset", "device", []), of("disks", "disk", []), of("supplies", "supply", [])];
  serverOf({ "GET /api/reports/rows": { body: kinds } });
  shown = await show(<Words rows={["asset", "disks", "supplies", "usb_devices"]} />);
  await shown.sees("device, disk, supply, usb device");
});
