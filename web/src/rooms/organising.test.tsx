import { afterEach, expect, test, vi } from "vitest";
import { narrowed } from "../api/client";
import type { Own } from "../parts/own/own";
import { PapersSection } from "../parts/Papers";
import { Standing } from "../parts/Standing";
import { me, type Shown, serverOf, show } from "../parts/testing";
import { Branches } from "./branches/Branches";
import { PlaceDialog } from "./branches/PlaceDialog";
import { FieldForm } from "./kinds/FieldForm";
import { Details } from "./reports/Details";
import { WatchForm } from "./reports/WatchForm";
import { Changes } from "./software/Changes";

const went = vi.fn();
let stoodIn: string | undefined;
vi.mock("@tanstack/react-router", () => ({
  useNavigate: () => went,
  useSearch: () => ({ in: stoodIn }),
  useRouterState: () => "/branches",
  Link: (props: { children: unknown }) => <a href="#x">{props.children as never}</a>,
}));

let shown: Shown;
afterEach(() => {
  stoodIn = undefined;
  window.history.replaceState(null, "", "/");
  went.mockClear();
  shown?.end();
});

const branch = (name: string, more = {}) => ({
  field: "place", name, under: "", depth: 0, here: 3, within: 3, kept: false, filter: `place in (${name})`, ...more,
}); // biome-ignore format: one branch
const TREES = [
  branch("Ashore", { here: 0, within: 7 }),
  branch("Saltholm", { depth: 1, under: "Ashore", within: 4, kept: true }),
  branch("Una Skerry", { field: "person" }),
];
const plain = {
  "GET /api/me": me("manager"),
  "GET /api/organisations": { body: [] },
  "GET /api/branches": { body: TREES },
};
const searchSaid = () => went.mock.calls.at(-1)?.[0].search({ q: "kept" });

test("what is asked carries the branch one stands in, and nothing where one stands everywhere", () => {
  window.history.replaceState(null, "", "/estate?in=place%3ASaltholm");
  expect(narrowed("/api/assets?limit=1")).toBe("/api/assets?limit=1&standing_in=place%3ASaltholm");
  expect(narrowed("/api/assets")).toBe("/api/assets?standing_in=place%3ASaltholm");
  window.history.replaceState(null, "", "/estate");
  expect(narrowed("/api/assets")).toBe("/api/assets");
});

test("trees tell what lies under what, and one may stand in a branch", async () => {
  serverOf(plain);
  shown = await show(<Branches />);
  const rows = shown.all("tbody tr").map((r) => r.textContent);
  expect(rows[0]).toContain("Ashore–none7");
  expect(rows[1]).toContain("└ Saltholm34");
  await shown.click(shown.button("Stand here: Saltholm"));
  expect(searchSaid()).toEqual({ q: "kept", in: "place:Saltholm" });
});

test("a move is sent, and a circle is told at its field", async () => {
  let refuses = true;
  const called = serverOf({
    ...plain,
    "PUT /api/branches": () =>
      refuses
        ? { status: 422, body: { detail: "That would be a circle: A under B.", field: "under", status: 422 } }
        : { body: TREES },
  });
  const close = vi.fn();
  shown = await show(
    <PlaceDialog field="place" branch={TREES[1] as never} names={["Ashore"]} close={close} />,
  );
  await shown.type("Lies under", "Saltholm quay");
  await shown.submit();
  expect(shown.one("[role=alert]").textContent).toContain("circle");
  refuses = false;
  await shown.submit();
  expect(called.at(-1)?.body).toEqual({ field: "place", name: "Saltholm", under: "Saltholm quay" });
  expect(close).toHaveBeenCalled();
});

test("the control in the bar says where one stands and leads back", async () => {
  stoodIn = "place:Saltholm";
  serverOf(plain);
  shown = await show(<Standing />);
  expect(shown.button("Standing in Saltholm").textContent).toBe("Saltholm");
  await shown.click(shown.button("Everywhere"));
  expect(searchSaid()).toEqual({ q: "kept", in: "" });
});

test("a paper is kept with its note, and taken away", async () => {
  const kept = [
    { id: 5, text: "Lent out", file_name: "slip.pdf", size: 2048, made_by: "wren", made_at: "2026-11-20T10:00:00Z" },
  ]; // biome-ignore format: one paper
  const called = serverOf({
    ...plain,
    "GET /api/assets/7/papers": { body: kept },
    "DELETE /api/papers/5": { status: 200, body: null },
  });
  shown = await show(<PapersSection asset={7} />);
  expect(shown.text()).toContain("slip.pdf 2.0 kB");
  expect(shown.text()).toContain("Lent out");
  expect(shown.button("Keep").disabled).toBe(true);
  await shown.click(shown.button("Take away slip.pdf"));
  expect(called.map((c) => c.call)).toContain("DELETE /api/papers/5");
});

test("lists under a row are chosen, narrowed and taken away", async () => {
  const kind = (name: string, one: string, names: string[], over_days = false) => {
    return {
      name,
      one,
      over_days,
      filtered: true,
      columns: names.map((n) => ({ name: n, label: n, type: "text" })),
    };
  };
  const known = [
    kind("asset", "device", ["name"]),
    kind("disks", "disk", ["name", "size", "asset.name"]),
    kind("activity", "start", ["at", "asset.name"], true),
  ];
  const set = vi.fn();
  serverOf({ ...plain, "GET /api/reports/rows": { body: known } });
  shown = await show(<Details known={known} details={[]} set={set} />);
  await shown.type("Add a list", "disks");
  expect(set).toHaveBeenLastCalledWith([{ row: "disks", columns: ["name", "size"], inner: "" }]);
  expect(shown.all("option").map((o) => o.textContent)).toEqual(["choose", "disk"]);
  shown.end();
  shown = await show(
    <Details
      known={known}
      details={[{ row: "disks", columns: ["name"], inner: "" }]}
      set={set}
      wrong="No."
    />,
  );
  await shown.click(shown.all("input[type=checkbox]")[1] as HTMLElement);
  expect(set).toHaveBeenLastCalledWith([{ row: "disks", columns: ["name", "size"], inner: "" }]);
  expect(shown.one("[role=alert]").textContent).toBe("No.");
  await shown.click(shown.button("Take disk away"));
  expect(set).toHaveBeenLastCalledWith([]);
});

test("the secret of a watch that calls is shown once, before the dialog goes", async () => {
  const close = vi.fn();
  const called = serverOf({
    ...plain,
    "GET /api/reports/list": { body: [] },
    "GET /api/watches/conditions": {
      body: [
        { key: "any", sentence: "there are any rows", number: "" },
        { key: "share", sentence: "their share has moved, at least", number: "Points" },
      ],
    },
    "POST /api/watches": { body: { name: "Calls", said: "every hour", secret: "whsec_abc" } },
  });
  shown = await show(<WatchForm held={null} report="silent" name="Calls" close={close} />);
  await shown.type("Writes when", "share");
  await shown.type("Points", "5");
  await shown.type("To", "https://desk.skerrivane.example/told");
  await shown.submit();
  expect(called.find((c) => c.call === "POST /api/watches")?.body).toMatchObject({
    condition: "share",
    number: 5,
    to: ["https://desk.skerrivane.example/told"],
    gathered: false,
  });
  expect(shown.text()).toContain("whsec_abc");
  expect(close).not.toHaveBeenCalled();
  await shown.click(shown.button("It is kept safe"));
  expect(close).toHaveBeenCalled();
});

test("a field made of others asks what it is made of and is needed of nobody", async () => {
  const own: Own = { kinds: [], fields: [], types: { text: "text", "made of others": "put together" } };
  const called = serverOf({ ...plain, "POST /api/own-fields": { body: own } });
  shown = await show(<FieldForm held={null} own={own} close={vi.fn()} />);
  expect(shown.text()).toContain("Needed of every asset");
  await shown.type("Name", "Label");
  await shown.type("Holds", "made of others");
  expect(shown.text()).not.toContain("Needed of every asset");
  await shown.type("Made of", "{name}, {place}");
  await shown.submit();
  expect(called.find((c) => c.call === "POST /api/own-fields")?.body).toMatchObject({
    type: "made of others",
    template: "{name}, {place}",
    required: false,
  });
});

test("changes of hardware have no release and no ruling, and lead to their devices by number", async () => {
  const wave = {
    product: null, thing: "disk sdb", verb: "removed", before: ["960 GB"], after: null, devices: 2, days: Array(28).fill(0),
    looks_like: "pc-1, pc-2", first: "2026-11-20T01:00:00Z", last: "2026-11-20T01:00:00Z", verdict: "", assets: [1, 2],
    numbers: ["A-00001", "A-00002"],
  }; // biome-ignore format: one wave
  const called = serverOf({
    ...plain,
    "GET /api/software/changes": {
      body: { waves: [wave], changes: 2, since: wave.first, until: wave.last },
    },
  });
  shown = await show(<Changes filter="" at={undefined} />);
  await shown.click(shown.button("Hardware"));
  expect(called.filter((c) => c.call === "GET /api/software/changes")).toHaveLength(2);
  expect(shown.all("th[aria-sort]").map((h) => h.textContent)).toEqual([
    "Change",
    "Part",
    "Before and after",
    "Where",
    "28 days",
    "What it looks like",
  ]);
  expect(shown.one("tbody a").textContent).toBe("2 devices");
});
