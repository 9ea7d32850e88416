import { afterEach, expect, test, vi } from "vitest";
import { CoverSection } from "../parts/acts/Cover";
import { me, type Shown, serverOf, show } from "../parts/testing";
import { AcquisitionForm } from "./dossier/AcquisitionForm";
import { LifeSection } from "./dossier/LifeSection";
import { MoneySection } from "./dossier/MoneySection";
import { ChangedSince } from "./licences/ChangedSince";
import { IdleList } from "./licences/IdleList";
import { Outlook } from "./licences/Outlook";
import { Remedy } from "./licences/Remedy";
import { Acknowledge } from "./lifecycle/Acknowledge";
import { Stock } from "./lifecycle/Stock";
import { RefreshPlan } from "./valuation/RefreshPlan";

vi.mock("@tanstack/react-router", () => ({
  useNavigate: () => vi.fn(),
  useSearch: () => ({}),
  useParams: () => ({ token: "abc" }),
  Link: (props: { children: unknown }) => <a href="#x">{props.children as never}</a>,
}));

let shown: Shown;
afterEach(() => shown?.end());

const step = (sort: string, text: string, more = {}) => ({
  sort, text, why: "because", cost: null, assets: [], product: "", licence: null, ...more,
}); // biome-ignore format: one step

test("what to do is told as steps, the money with each, and what no purchase covers", async () => {
  serverOf({
    "GET /api/me": me("manager"),
    "GET /api/licences/remedy": {
      body: {
        day: "2026-06-01", currency: "EUR", cost: "15500.00", left: 12, unpriced: ["Ostler"],
        steps: [
          step("give up", "Take Quill off 2 devices", { assets: [3, 4], product: "Quill" }),
          step("buy", "Buy 20 of “Grebe”", { cost: "15500.00", licence: 7 }),
          step("left", "12 installations that no purchase covers: ostler 12", { assets: [9] }),
        ],
      }, // biome-ignore format: one answer
    },
  });
  shown = await show(<Remedy at={undefined} />);
  await shown.sees("Buy 20 of “Grebe”");
  expect(shown.text()).toContain("15,500 EUR");
  expect(shown.text()).toContain("12 installations no purchase covers");
  expect(shown.text()).toContain("No price is known of Ostler");
  await shown.sees("Uninstall it there");
});

test("idle installations say why and what they are worth in all", async () => {
  const row = {
    balance: "device:1", asset: 3, name: "salt-nb-01", person: "Una Vale", department: "Fleet", product: "Quill",
    release: "16", licence: "", licence_id: null, why: "Una Vale has left", units: 1, worth: "120.50", currency: "EUR",
  }; // biome-ignore format: one row
  serverOf({ "GET /api/licences/idle": { body: [row, { ...row, asset: 4, name: "salt-nb-02" }] } });
  shown = await show(<IdleList at={undefined} />);
  await shown.sees("2 installations could be given up, worth 241 EUR");
  expect(shown.text()).toContain("none"); // no licence covers it
});

test("nothing idle says when something would be", async () => {
  serverOf({ "GET /api/licences/idle": { body: [] } });
  shown = await show(<IdleList at={undefined} />);
  await shown.sees("when its holder has left");
});

test("what if a department hires is refused in words and told in units", async () => {
  let tries = 0;
  serverOf({
    "GET /api/me": me("viewer"),
    "GET /api/strata": { body: [{ name: "department", parts: [{ label: "Ticketing", count: 3 }] }] },
    "GET /api/licences/next-year": {
      body: {
        day: "2026-06-01",
        until: "2027-06-01",
        currency: "EUR",
        lines: [],
        sums: {},
        total: "0.00",
        apart: ["A: no rate"],
      },
    },
    "GET /api/licences/hired": () =>
      tries++ === 0
        ? { status: 422, body: { detail: "Nobody of “Moon” has a device." } }
        : {
            body: {
              department: "Ticketing", number: 12, currency: "EUR", products: ["Quill"], cost: "1440.00",
              balances: [{ name: "Quill", unit: "people", more: 12, short: 12, spare: 0, cost: "1440.00" }],
            }, // biome-ignore format: one answer
          },
  });
  shown = await show(<Outlook at={undefined} />);
  await shown.sees("A: no rate");
  await shown.type("Department", "Moon");
  await shown.submit();
  await shown.sees("Nobody of “Moon” has a device.");
  await shown.type("Department", "Ticketing");
  await shown.submit();
  await shown.sees("1,440 EUR more to buy");
});

test("what changed since a day is reckoned when it is opened", async () => {
  const called = serverOf({
    "GET /api/licences/changes": {
      body: [
        { key: "d:1", name: "Quill", unit: "devices", needed: [1, 3], entitled: [2, null], short: [0, 1] },
      ],
    },
  });
  shown = await show(<ChangedSince at={undefined} choose={vi.fn()} />);
  expect(called).toEqual([]);
  const details = shown.one("details") as HTMLDetailsElement;
  details.open = true;
  details.dispatchEvent(new Event("toggle"));
  await shown.sees("needed 1 → 3, entitled 2 → ∞, short 0 → 1");
});

test("whoever received something says so in their own name", async () => {
  const what = {
    name: "salt-nb-01", number: "A-00003", kind: "laptop", serial: "H1", model: "L14", receiver: "Una Vale",
    given_by: "ines", given_on: "2026-05-01", due: "2026-06-30", done: false, acknowledged_by: "",
  }; // biome-ignore format: one hand-over
  let done = false;
  serverOf({
    "GET /api/acknowledgements/abc": () => ({
      body: done ? { ...what, done: true, acknowledged_by: "U. Vale" } : what,
    }),
    "POST /api/acknowledgements/abc": (body) => {
      done = (body as { name: string }).name !== "";
      return done ? { body: what } : { status: 422, body: { detail: "Write your name.", field: "name" } };
    },
  });
  shown = await show(<Acknowledge />);
  await shown.sees("Have you received this?");
  await shown.submit();
  expect(shown.one("[role=alert]").textContent).toBe("Write your name.");
  await shown.type("Your name", "U. Vale");
  await shown.submit();
  await shown.sees("U. Vale has acknowledged this.");
});

test("a life is told step by step, with what came of each", async () => {
  const taken = {
    anchor: "x", step: "dispose of", begins: "retired", to: "disposed", at: "2026-05-01T10:00:00Z", who: "ines", why: "old",
    method: "sold", erasure: "E-1", proceeds: "85.00", costs: null, currency: "EUR", receiver: "", due: null,
    acknowledged_at: null, returned_at: null, condition: "", papers: [{ id: 4, file_name: "receipt.pdf", text: "" }],
  }; // biome-ignore format: one step
  serverOf({
    "GET /api/me": me("viewer"),
    "GET /api/lifecycle/assets/3/steps": { body: { open: [], taken: [taken], hand_over: null } },
  });
  shown = await show(<LifeSection asset={3} />);
  await shown.sees("by sold; erasure: E-1; for 85 EUR");
  expect(shown.text()).toContain("receipt.pdf");
});

test("cover is said in a sentence, with who differs", async () => {
  serverOf({
    "GET /api/lifecycle/assets/3/cover": {
      body: {
        in_cover: true, says: "In cover by “Bench” until 2028-03-03, 461 days left.", until: "2028-03-03", days_left: 461,
        conflict: "They differ on the end of its warranty",
        covers: [{ name: "Bench", who: "warranty service Care", begins: null, ends: "2028-03-03", level: "", claim: "Call", holds: true },
                 { name: "Old", who: "hand ines", begins: null, ends: "2020-01-01", level: "", claim: "", holds: false }],
      }, // biome-ignore format: one cover
    },
  });
  shown = await show(<CoverSection asset={3} />);
  await shown.sees("461 days left");
  expect(shown.text()).toContain("They differ on the end of its warranty.");
  expect(shown.text()).toContain("not in force");
});

const terms = {
  cost: "1200.00", residual: "0.00", months: 36, start: "2024-01-01", method: "straight line", convention: "full month",
  factor: 200, revisions: [{ day: "2025-01-01", months_left: 36, residual: "0.00" }],
}; // biome-ignore format: one plan
const money = {
  day: "2026-06-01", currency: "EUR", by: "Laptops", apart: "", book: "400.00", terms, own: null, years: [], months: [],
  disposal: null, month: [{ part: "energy", what: "22 W for 9 hours a day", amount: "1.87" }], total: "35.20",
}; // biome-ignore format: one money

test("what an asset is worth says why, and its own terms can be given", async () => {
  const called = serverOf({
    "GET /api/me": me("manager"),
    "GET /api/valuation/assets/3": { body: money },
    "PUT /api/valuation/assets/3/terms": {
      status: 422,
      body: { detail: "A residual value lies between nothing and the cost.", field: "residual" },
    },
  });
  shown = await show(<MoneySection asset={3} />);
  await shown.sees("Worth 400 EUR");
  expect(shown.text()).toContain("By the rule “Laptops”.");
  expect(shown.text()).toContain("spread over 36 months");
  await shown.click(shown.button("Give it terms of its own"));
  await shown.type("Left in the end, EUR", "5000");
  await shown.submit();
  expect(shown.one("[role=alert]").textContent).toContain("between nothing and the cost");
  expect(called.at(-1)?.body).toMatchObject({
    cost: "1200.00",
    months: 36,
    residual: "5000",
    revisions: [],
    version: 0,
  });
});

test("an acquisition is typed over what is believed, its amount in the digits of its currency", async () => {
  const claim = (value: string | number) => ({
    why: "Only one source speaks of it.",
    said: [{ source: "x", source_kind: "file", value, believed: true, agrees: true }],
  });
  const called = serverOf({
    "GET /api/me": me("manager"),
    "PUT /api/lifecycle/assets/3/acquisition": {
      status: 422,
      body: { detail: "The warranty ends before it begins.", field: "warranty_end" },
    },
  });
  const claims = { price: claim(985), currency: claim("JPY"), bought_at: claim(1_767_873_600) } as never;
  shown = await show(<AcquisitionForm asset={3} claims={claims} close={vi.fn()} />);
  await shown.submit();
  expect(called.at(-1)?.body).toMatchObject({
    price: "985",
    currency: "JPY",
    bought: "2026-01-08",
    warranty_end: null,
  });
  expect(shown.one("[role=alert]").textContent).toBe("The warranty ends before it begins.");
});

test("stock says what lies there and what is still to come", async () => {
  serverOf({
    "GET /api/lifecycle/stock": {
      body: {
        total: 2,
        lying: [
          {
            kind: "laptop",
            manufacturer: "Halberd",
            model: "L14",
            place: "",
            number: 2,
            bought: 1,
            warranty: null,
            filter: "x",
          },
        ],
        coming: [
          {
            order: "PO-1",
            supplier: "Q",
            expected: "2026-05-01",
            late: true,
            kind: "scanner",
            manufacturer: "",
            model: "",
            number: 6,
          },
        ],
      },
    },
  });
  shown = await show(<Stock at={undefined} />);
  await shown.sees("2 devices");
  expect(shown.text()).toContain("late");
});

test("another budget is asked for as it is drawn, against the scenario that is open", async () => {
  const quarter = {
    name: "2026 Q4",
    begins: "2026-10-01",
    devices: 2,
    cost: "1800.00",
    budget: "2000.00",
    waiting: 1,
  };
  const plan = {
    day: "2026-11-01", currency: "EUR", devices: 9, planned: 2, cost: "1800.00", moved: 1, unpriced: 0, undated: 0,
    quarters: [quarter], kinds: [{ kind: "laptop", devices: 9, planned: 2, life: 48, price: "900.00", memory: null }],
    rows: [{ id: 3, name: "salt-nb-01", number: "A-3", kind: "laptop", place: null, department: null, due: "2026-10", quarter: "", price: "900.00", why: "48 months of life, bought in 2022-10", moved: true }],
    factors: {},
  }; // biome-ignore format: one plan
  const settings = {
    life: { laptop: 48 },
    price: {},
    memory: {},
    earlier: {},
    budgets: ["2000.00"],
    quarters: 1,
  };
  const called = serverOf({
    "GET /api/me": me("manager"),
    "GET /api/valuation/scenarios": {
      body: [{ id: 5, name: "As it is", filter: "kind = laptop", settings, made_by: "ines", version: 1 }],
    },
    "POST /api/valuation/refresh": { body: plan },
  });
  shown = await show(<RefreshPlan at={undefined} />);
  await shown.sees("As it is");
  await shown.click(shown.button("As it is"));
  await shown.sees("1 device otherwise than in “As it is”");
  expect(called.at(-1)?.body).toMatchObject({
    filter: "kind = laptop",
    beside: 5,
    settings: { budgets: ["2000.00"], life: { laptop: 48 } },
  });
  expect(shown.text()).toContain("1 still wait at the end");
  expect(shown.text()).toContain("not reached");
});
