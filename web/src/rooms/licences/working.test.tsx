import { afterEach, expect, test, vi } from "vitest";
import type { Schemas } from "../../api/client";
import { me, type Shown, serverOf, show } from "../../parts/testing";
import { Working } from "./Working";

vi.mock("@tanstack/react-router", () => ({
  useNavigate: () => vi.fn(),
  useSearch: () => ({}),
  Link: (props: { children: unknown; params?: { licence?: string } }) => (
    <a href={`#${props.params?.licence ?? ""}`}>{props.children as never}</a>
  ),
}));

let shown: Shown;
afterEach(() => shown?.end());

const balance: Schemas["BalanceOut"] = {
  key: "5-",
  name: "Quill Office",
  products: ["Quill Office"],
  organisation: "",
  metric: "device",
  unit: "devices",
  pack: 5,
  needed: 27,
  entitled: 20,
  assigned: 20,
  short: 7,
  spare: 0,
  installations: 27,
  licences: [
    { id: 3, name: "Quill 2024" },
    { id: 4, name: "Quill suite" },
  ],
  cure: "100.00",
  spare_value: null,
  here: null,
};
const stray = (n: number) => ({
  asset: n,
  name: `pc-${n}`,
  person: n === 1 ? "Una Skerry" : "",
  product: "Quill Office",
  release: "16",
  since: "2026-01-01",
  reasons: [{ licence: n === 1 ? "Quill 2024" : "", reason: `reason ${n}` }],
});
const why: Schemas["WhyOut"] = {
  ...balance,
  working: [
    { sign: "", figure: 27, text: "installations", note: "of one release or another" },
    { sign: "-", figure: 20, text: "covered", note: "" },
    { sign: "=", figure: 7, text: "short", note: "" },
  ],
  cures: [
    { free: [], freed: 0, buy: 10, packs: 2, price: "50.00", cost: "100.00", anew: 0, decides: false },
    { free: [1, 2, 3, 4, 5].map((n) => ({ asset: n, name: `pc-${n}`, why: "not used", person: "" })), freed: 5, buy: 0,
      packs: 0, price: null, cost: "0.00", anew: 0, decides: true },
    { free: [], freed: 0, buy: 7, packs: 2, price: null, cost: null, anew: 0, decides: false },
  ],
  uncovered: [1, 2, 3, 4, 5, 6, 7].map(stray),
  uncovered_all: 9,
  left_out: [
    { asset: 8, name: "pc-8", reason: "exempt: a test machine", product: "Quill Office" },
    { asset: 9, name: "pc-9", reason: "retired", product: "Quill Office" },
  ],
  departments: [
    { name: "Ticketing", covered: 12, uncovered: 7, uses: 19 },
    { name: "Bridge", covered: 8, uncovered: 0, uses: 8 },
  ],
  warnings: ["“Quill 2024” ends on 2026-12-31, in 31 days."],
  spare_idle: 0,
}; // biome-ignore format: one working
const answers = {
  "GET /api/me": me("manager"),
  "GET /api/licences/positions/5-": { body: why },
  "GET /api/licences/positions/5-/trend": {
    body: [
      { day: "2025-11-30", needed: 20, entitled: null, short: 0 },
      { day: "2026-11-30", needed: 27, entitled: 20, short: 7 },
    ],
  },
};
const drawn = () => show(<Working balance={balance} at={undefined} currency="EUR" />);

test("a balance is reckoned line by line, with its licences, warnings and departments", async () => {
  serverOf(answers);
  shown = await drawn();
  await shown.sees("Why Quill Office is 7 short");
  expect(shown.all("aside ol li").map((l) => l.textContent)).toEqual([
    " 27installationsof one release or another",
    "− 20covered",
    "= 7short",
  ]);
  expect(shown.all("a[href='#3'], a[href='#4']").map((a) => a.textContent)).toEqual([
    "Quill 2024",
    "Quill suite",
  ]);
  expect(shown.text()).toContain("in 31 days");
  expect(shown.text()).toContain("By department, in devices");
});

test("cures are said in their order with what they cost, and one nobody can price says so", async () => {
  serverOf(answers);
  shown = await drawn();
  await shown.sees("Cheapest cure");
  const cures = shown
    .all("section ul.space-y-1\\.5 li")
    .map((l) => l.textContent?.replace(/\s+/g, " ").trim());
  expect(cures[0]).toMatch(/^100 ?Buy 2 packs of 5 at 50 EUR\.$/);
  expect(cures[1]).toContain("Give up 5 units: pc-1 (not used), pc-2 (not used)");
  expect(cures[1]).toContain("and 1 more. Nothing to buy. Needs a decision.");
  expect(cures[2]).toContain("not known");
  expect(cures[2]).toContain("No purchase is known to cure this");
});

test("what nothing covers is told with its reasons, six at first, and how many more there are", async () => {
  serverOf(answers);
  shown = await drawn();
  await shown.sees("Nothing covers these 9");
  expect(shown.text()).toContain("Quill 2024: reason 1");
  expect(shown.text()).not.toContain("reason 7");
  await shown.click(shown.button("1 more"));
  expect(shown.text()).toContain("reason 7");
  expect(shown.text()).toContain("and 2 more");
});

test("of what is left out only what a person said can be said otherwise", async () => {
  serverOf(answers);
  shown = await drawn();
  await shown.sees("2 installations left out");
  const said = shown.all("[aria-label^='Say of']").map((b) => b.getAttribute("aria-label"));
  expect(said).toContain("Say of pc-8");
  expect(said).not.toContain("Say of pc-9");
});

test("the past year is reckoned only once it is opened", async () => {
  const called = serverOf(answers);
  shown = await drawn();
  await shown.sees("The past year");
  const trends = () => called.filter((c) => c.call.endsWith("/trend")).length;
  expect(trends()).toBe(0);
  const past = shown
    .all("details")
    .find((d) => d.textContent?.startsWith("The past year")) as HTMLDetailsElement;
  await shown.act(() => {
    past.open = true;
    past.dispatchEvent(new Event("toggle"));
  });
  expect(trends()).toBe(1);
  const rows = shown.all("table[aria-label='Day by day'] tbody tr").map((r) => r.textContent);
  expect(rows[0]).toContain("∞");
  expect(rows[1]).toContain("27207");
});

test("whoever only looks, and whoever looks at a past day, says nothing of an installation", async () => {
  serverOf({ ...answers, "GET /api/me": me("viewer") });
  shown = await drawn();
  await shown.sees("Nothing covers these 9");
  expect(shown.all("[aria-label^='Say of']")).toEqual([]);
  shown.end();
  serverOf(answers);
  shown = await show(<Working balance={balance} at="2026-03-01" currency="EUR" />);
  await shown.sees("Nothing covers these 9");
  expect(shown.all("[aria-label^='Say of']")).toEqual([]);
});

test.each([
  [{ short: 0, spare: 4 }, "Why Quill Office has 4 to spare"],
  [{ short: 0, spare: 0 }, "Why Quill Office is even"],
])("a balance that is not short is told as it stands: %j", async (change, words) => {
  const even = { ...balance, ...change };
  serverOf({
    ...answers,
    "GET /api/licences/positions/5-": {
      body: {
        ...why,
        ...change,
        cures: [],
        uncovered: [],
        uncovered_all: 0,
        left_out: [],
        warnings: [],
        departments: [],
      },
    },
  });
  shown = await show(<Working balance={even} at={undefined} currency="EUR" />);
  await shown.sees(words);
  for (const absent of ["Cheapest cure", "Nothing covers", "left out", "The cheapest way over all licences"])
    expect(shown.text()).not.toContain(absent);
});

test("a balance that is gone meanwhile is said", async () => {
  serverOf({
    ...answers,
    "GET /api/licences/positions/5-": {
      status: 404,
      body: { detail: "There is no such balance.", status: 404 },
    },
  });
  shown = await drawn();
  await shown.sees("There is no such balance.");
});
