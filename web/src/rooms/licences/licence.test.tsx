import { afterEach, beforeEach, expect, test, vi } from "vitest";
import type { Schemas } from "../../api/client";
import { answered } from "../../parts/sample";
import { me, type Shown, serverOf, show } from "../../parts/testing";
import { LicencePage } from "./LicencePage";

const went: unknown[] = [];
vi.mock("@tanstack/react-router", () => ({
  useParams: () => ({ licence: "3" }),
  useSearch: () => ({}),
  useNavigate: () => (to: unknown) => void went.push(to),
  Link: (props: { children: unknown }) => <a href="#x">{props.children as never}</a>,
}));

let shown: Shown;
beforeEach(() => {
  went.length = 0;
});
afterEach(() => {
  shown?.end();
  vi.unstubAllGlobals();
});

const use = (asset: number, more: object = {}) => ({
  asset,
  name: `pc-${asset}`,
  person: "",
  product: "Quill Office",
  release: "16",
  right: "as the product itself",
  pinned: false,
  ...more,
});
const licence: Schemas["LicenceOut"] = {
  ...(answered("GET /api/licences/3", "least") as Schemas["LicenceOut"]),
  id: 3,
  name: "Quill Office, by device",
  publisher: "Quill",
  metric: "device",
  unit: "devices",
  products: ["Quill Office"],
  quantity: 20,
  used: 14,
  pack: 5,
  downgrade: true,
  transferable: false,
  departments: ["Ticketing"],
  cost: "1250.50",
  cost_currency: "EUR",
  cost_every: "year",
  unknown: ["Quil Office"],
  tags: ["office"],
  extra: { Agreement: "EA-7" },
  former: [{ until: "2026-01-01", terms: { metric: "person", release: "", products: ["Quill Office"] } }],
  purchases: [
    { id: 1, day: "2026-01-10", quantity: 20, price: "10.00", currency: "EUR", order: "O-1", supplier: "Shop", counts: true },
    { id: 2, day: "2027-01-10", quantity: 5, price: "10.00", currency: "EUR", order: "", supplier: "", counts: false },
  ],
  bearers: [
    { units: 1, text: "one a device", uses: [use(1, { pinned: true, person: "Una Skerry" })] },
    { units: 2, text: "its guests", uses: [2, 3, 4, 5, 6, 7].map((n) => use(n)) },
  ],
  bearers_all: 14,
}; // biome-ignore format: one licence
const answers = (held: object = licence) => ({
  "GET /api/me": me("manager"),
  "GET /api/licences/3": { body: held },
  "GET /api/papers-of/licence/3": { body: [] },
  "GET /api/licences/metrics": { body: [] },
});

test("what it gives, what is left and what past days are reckoned with is said in words", async () => {
  serverOf(answers());
  shown = await show(<LicencePage />);
  await shown.sees("Quill Office, by device");
  for (const said of [
    "any release; older releases too; packs of 5; for Ticketing alone; not to be moved",
    "EUR each year",
    "20 devices owned, 14 drawn on, 6 left",
    "No device has or had Quil Office.",
    "counted by person, any release, covering Quill Office.",
    "the first 2 of 14",
    "and 2 more",
    "pinned",
    "Una Skerry",
    "Agreement EA-7",
  ])
    expect(shown.text().replace(/\s+/g, " ")).toContain(said);
  const rows = shown.all("table[aria-label=Purchases] tbody tr");
  expect(rows.map((r) => r.textContent?.includes("later"))).toEqual([false, true]);
});

test("one without limit has nothing left to count, one without purchases says that nothing is owned", async () => {
  serverOf(answers({ ...licence, quantity: null, purchases: [], bearers: [], bearers_all: 0 }));
  shown = await show(<LicencePage />);
  await shown.sees("∞");
  expect(shown.text()).not.toContain(" left");
  expect(shown.text()).toContain("none yet: nothing is owned");
  expect(shown.text()).toContain("0 bearers");
});

test("a purchase is dropped, and a refusal is said", async () => {
  const called = serverOf({
    ...answers(),
    "DELETE /api/licences/purchases/1": { status: 204, body: undefined },
  });
  shown = await show(<LicencePage />);
  await shown.click(shown.all("[aria-label^='Drop the purchase of']")[0] as HTMLElement);
  expect(called.some((c) => c.call === "DELETE /api/licences/purchases/1")).toBe(true);
});

test("it is dropped with all that hangs on it only once that was meant", async () => {
  const called = serverOf({ ...answers(), "DELETE /api/licences/3": { status: 204, body: undefined } });
  const asks = vi.fn().mockReturnValueOnce(false).mockReturnValue(true);
  vi.stubGlobal("confirm", asks);
  shown = await show(<LicencePage />);
  const drop = shown.all("button").find((b) => b.textContent === "Drop" && !b.ariaLabel) as HTMLElement;
  await shown.click(drop);
  expect(called.some((c) => c.call.startsWith("DELETE"))).toBe(false);
  await shown.click(drop);
  expect(asks.mock.calls[0]?.[0]).toContain("with its purchases and keys");
  expect(went.at(-1)).toMatchObject({ to: "/licences", search: { tab: "owned" } });
});

test("records of use are taken only where its metric reads them", async () => {
  serverOf(answers({ ...licence, records: false }));
  shown = await show(<LicencePage />);
  await shown.sees("Add a purchase");
  expect(shown.text()).not.toContain("Records of use");
  shown.end();
  serverOf(answers({ ...licence, records: true }));
  shown = await show(<LicencePage />);
  await shown.sees("Records of use");
});
