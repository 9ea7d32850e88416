import { afterEach, expect, test, vi } from "vitest";
import { me, type Shown, serverOf, show } from "../../parts/testing";
import { Baselines } from "./Baselines";
import { Changes } from "./Changes";
import { CorrectDialog } from "./Names";
import { having, Products } from "./Products";
import { RuleDialog } from "./RuleDialog";
import { Rulings } from "./Rulings";

vi.mock("@tanstack/react-router", () => ({
  useNavigate: () => vi.fn(),
  Link: (props: { children: unknown; search?: { q?: string } }) => (
    <a href={`#${props.search?.q ?? ""}`}>{props.children as never}</a>
  ),
}));

let shown: Shown;
afterEach(() => shown.end());

const PRODUCT = {
  id: 1,
  name: "Quill Office",
  publisher: "Northquill",
  devices: 114,
  before: 110,
  releases: 3,
  newest: "16.1.1",
  role: "product",
  first_seen: "2026-07-25T01:30:00Z",
  verdict: "permitted",
  mixed: false,
  why: "Quill Office, the whole company: permitted",
};
const SHARE = {
  ...PRODUCT,
  id: 2,
  name: "Driftshare",
  devices: 2,
  before: 0,
  verdict: "none yet",
  first_seen: new Date().toISOString(),
};
const plain = { "GET /api/organisations": { body: [] }, "GET /api/me": me("operator") };
const overview = { "GET /api/software": { body: { products: [PRODUCT, SHARE], devices: 120, hidden: 9 } } };

test("products are sifted by what is ruled and by what is new, and sorted", async () => {
  serverOf({ ...plain, ...overview });
  shown = await show(<Products filter="" at={undefined} />);
  expect(shown.text()).toContain("2 products on 120 devices");
  expect(shown.text()).toContain("(9 hidden)");
  expect(shown.all("tbody tr").map((r) => r.textContent)).toEqual([
    expect.stringContaining("+4"),
    expect.stringContaining("+2"),
  ]);
  await shown.click(shown.button("New this week 1"));
  expect(shown.all("tbody tr")).toHaveLength(1);
  expect(shown.text()).toContain("no ruling yet");
  await shown.click(shown.button("All 2"));
  await shown.click(shown.button("Product"));
  expect(shown.all("tbody tr")[0]?.textContent).toContain("Driftshare");
});

test("in the past nothing can be ticked or ruled on", async () => {
  serverOf({ ...plain, ...overview });
  shown = await show(<Products filter="" at="2026-08-03" />);
  expect(shown.all("tbody input")).toHaveLength(0);
  expect(shown.text()).not.toContain("Rule on");
});

test("a product's devices are asked within the selection, whatever its name holds", async () => {
  shown = await show(<p />);
  expect(having("kind = server", 'Say "x" (y)')).toBe(
    'kind = server and software[product = "Say \\"x\\" (y)"]',
  );
});

test("one ruling on several says how many devices it touches and sends the day's end", async () => {
  const called = serverOf({
    ...plain,
    "GET /api/assets": { body: { total: 7, of: 9, sentence: "", rows: [] } },
    "POST /api/software/rulings": { body: { made: 2 } },
  });
  const done = vi.fn();
  shown = await show(<RuleDialog names={["Quill Office", "Driftshare"]} close={vi.fn()} done={done} />);
  expect(shown.text()).toContain("Found on 7 devices now");
  await shown.type("The company says", "tolerated");
  await shown.type("Until, that day in", "2026-12-31");
  await shown.submit();
  const sent = called.find((c) => c.call.startsWith("POST"))?.body as { names: string[]; until: number };
  expect(sent.names).toEqual(["Quill Office", "Driftshare"]);
  expect(new Date(sent.until * 1000).getHours()).toBe(23);
  expect(done).toHaveBeenCalled();
});

test("a refused ruling says so at its field and keeps what was typed", async () => {
  serverOf({
    ...plain,
    "GET /api/assets": { body: { total: 0, of: 9, sentence: "", rows: [] } },
    "POST /api/software/rulings": { status: 422, body: { detail: "2 comes after 1.", field: "high" } },
  });
  shown = await show(<RuleDialog names={["Driftshare"]} close={vi.fn()} done={vi.fn()} />);
  await shown.type("From release", "2");
  await shown.type("Up to release", "1");
  await shown.submit();
  expect(shown.one("[role=alert]").textContent).toBe("2 comes after 1.");
});

test("rulings that are over or soon over stand first and say it", async () => {
  const day = 86_400;
  const now = Math.floor(Date.now() / 1000);
  const ruling = {
    id: 1,
    subject: "product",
    name: "Old",
    low: "",
    high: "",
    department: "",
    verdict: "tolerated",
    until: now + 90 * day,
    over: false,
    why: "",
    review_at: null,
    begins: now,
    ends: null,
    made_by: "ines",
    words: "",
    products: ["Old"],
  };
  serverOf({
    ...plain,
    "GET /api/assets": { body: { total: 3, of: 9, sentence: "", rows: [] } },
    "GET /api/software/rulings": {
      body: [
        ruling,
        { ...ruling, id: 2, name: "Soon", until: now + 5 * day },
        { ...ruling, id: 3, name: "Over", until: now - day, over: true },
      ],
    },
  });
  shown = await show(<Rulings at={undefined} />);
  const rows = shown.all("tbody tr").map((r) => r.textContent ?? "");
  expect(rows[2]).toContain("Old");
  expect(rows.find((r) => r.includes("Over"))).toContain("barred");
  expect(rows.find((r) => r.includes("Soon"))).toContain("soon");
  expect(shown.text()).toContain("Barred software is on 3 devices");
});

test("a change leads to the devices that have what came; a removal does not", async () => {
  const wave = {
    product: 1,
    thing: "Quill Office",
    verb: "updated",
    before: ["16.0", "15.9", "15.8"],
    after: "16.1",
    devices: 5,
    days: Array(28).fill(0),
    looks_like: "wave over 3 days",
    first: "2026-11-20T01:00:00Z",
    last: "2026-11-22T01:00:00Z",
    verdict: "permitted",
    assets: [1, 2, 3, 4, 5],
    numbers: ["A-1", "A-2", "A-3", "A-4", "A-5"],
  };
  serverOf({
    ...plain,
    "GET /api/software/changes": {
      body: {
        waves: [wave, { ...wave, verb: "removed", after: null }],
        changes: 10,
        since: wave.first,
        until: wave.last,
      },
    },
  });
  shown = await show(<Changes filter="place = Saltholm" at={undefined} />);
  expect(shown.text()).toContain("10 changes in 2 lines");
  expect(shown.text()).toContain("16.0 and 2 others → 16.1");
  const links = shown.all("tbody a").filter((a) => a.textContent === "5 devices");
  expect(links.map((a) => decodeURI(a.getAttribute("href") ?? ""))).toEqual([
    '#place = Saltholm and software[product = "Quill Office" and version = 16.1 and since >= 2026-11-20]',
  ]);
  await shown.click(shown.button("removed"));
  expect(shown.all("tbody tr")).toHaveLength(1);
});

test("what a baseline's devices lack is told from what was never read", async () => {
  const baseline = {
    id: 1, name: "Office", filter: "kind = laptop", version: 3, devices: 10, whole: 6, lack: 3, unread: 1,
    rules: [{ name: "a suite", filter: "software[product in @suites]", sentence: "", lacking: "not x", have: 6, lack: 3, unread: 1 }],
    rows: [{ id: 5, number: "A-00005", name: "lt-5", kind: "laptop", place: null, department: null, lacks: ["a suite"], unread: [] }],
  }; // biome-ignore format: one object
  const called = serverOf({
    ...plain,
    "GET /api/me": me("manager"),
    "GET /api/software/baselines": { body: [baseline] },
    "PUT /api/software/baselines/1": { status: 409, body: { detail: "Office was changed by someone else." } },
  });
  shown = await show(<Baselines at={undefined} />);
  expect(shown.text()).toContain("10 devices: 6 have all, 3 lack something, 1 were never read");
  expect(shown.one("[role=img]").getAttribute("aria-label")).toBe("6 have it, 3 lack it, 1 never read");
  expect(shown.text()).not.toContain("lt-5");
  await shown.click(shown.button("Device by device, 3"));
  expect(shown.text()).toContain("lt-5");
  await shown.click(shown.button("Change"));
  await shown.click(shown.button("Another condition"));
  await shown.click(shown.button("Take condition 2 away"));
  await shown.submit();
  expect(
    called.filter((c) => c.call.startsWith("PUT")).map((c) => (c.body as { version: number }).version),
  ).toEqual([3]);
  expect(shown.one("dialog [role=alert]").textContent).toContain("changed by someone else");
});

test("a correction's rehearsal goes stale when the correction is changed", async () => {
  serverOf({
    ...plain,
    "POST /api/names/corrections/rehearse": {
      body: [{ name: "tillmaster", before: "tillmaster (product)", after: "Till (product)" }],
    },
  });
  shown = await show(<CorrectDialog field="product" match="tillmaster" close={vi.fn()} />);
  await shown.type("the product is", "Till");
  await shown.click(shown.button("Rehearse"));
  expect(shown.text()).toContain("1 listed name would change");
  await shown.type("the product is", "Tills");
  expect(shown.text()).not.toContain("would change");
});
