import { afterEach, expect, test, vi } from "vitest";
import { StepDialog } from "../parts/acts/StepDialog";
import { me, type Shown, serverOf, show } from "../parts/testing";
import { Warnings } from "./licences/Warnings";
import { HandOvers } from "./lifecycle/HandOvers";
import { StepBook } from "./lifecycle/StepBook";
import { settingsOf } from "./valuation/draft";
import { MoneyLens } from "./valuation/MoneyLens";
import { RuleForm } from "./valuation/RuleForm";

vi.mock("@tanstack/react-router", () => ({
  useNavigate: () => vi.fn(),
  useSearch: () => ({}),
  Link: (props: { children: unknown }) => <a href="#x">{props.children as never}</a>,
}));

let shown: Shown;
afterEach(() => shown?.end());

const lend = {
  name: "lend",
  begins: ["in stock"],
  to: "on loan",
  needs: ["person", "due"],
  clears: [],
  hands: "gives",
};
const repair = {
  name: "send to repair",
  begins: ["in stock"],
  to: "in repair",
  needs: ["why"],
  clears: [],
  hands: "",
};
const cover = {
  in_cover: false, says: "Out of cover since 2026-01-01: mending it is at one's own cost.", until: "2026-01-01",
  days_left: 0, conflict: "", covers: [],
}; // biome-ignore format: one cover

test("a step asks for what it needs, shows what is missing at its place, and then the link", async () => {
  let tries = 0;
  const called = serverOf({
    "GET /api/me": me("operator"),
    "POST /api/lifecycle/steps/open": { body: [lend, repair] },
    "GET /api/persons": { body: [] },
    "POST /api/lifecycle/steps/take": () =>
      tries++ === 0
        ? { status: 422, body: { detail: "“lend” needs who gets it.", field: "person" } }
        : { body: { assets: 1, entry: 7, acknowledge: [{ asset: 3, path: "/acknowledge/abc" }] } },
  });
  shown = await show(<StepDialog assets={[3]} total={1} named="salt-nb-01" close={vi.fn()} />);
  expect(shown.text()).toContain("Then it is on loan.");
  await shown.submit();
  expect(shown.one("[role=alert]").textContent).toBe("“lend” needs who gets it.");
  await shown.type("Person", "Asa Wren");
  await shown.submit();
  const sent = called.filter((c) => c.call === "POST /api/lifecycle/steps/take").at(-1)?.body;
  expect(sent).toMatchObject({ step: "lend", assets: [3], person: "Asa Wren", due: null, filter: null });
  await shown.sees("/acknowledge/abc");
});

test("before a repair it is said whether the device is in cover", async () => {
  serverOf({
    "GET /api/me": me("operator"),
    "POST /api/lifecycle/steps/open": { body: [repair] },
    "GET /api/lifecycle/assets/3/cover": { body: cover },
  });
  shown = await show(<StepDialog assets={[3]} total={1} named="salt-nb-01" close={vi.fn()} />);
  await shown.sees("Out of cover since 2026-01-01");
});

test("where no step is open to all of a selection that is said", async () => {
  serverOf({ "GET /api/me": me("operator"), "POST /api/lifecycle/steps/open": { body: [] } });
  shown = await show(
    <StepDialog assets={[]} filter="kind = laptop" total={9} named="9 devices" close={vi.fn()} />,
  );
  expect(shown.text()).toContain("No step is open to all of them from where they stand.");
});

test("a book of steps that cannot be is refused in words", async () => {
  serverOf({
    "GET /api/lifecycle/steps": {
      body: { steps: [lend], own: true, version: 2, needs: { person: "who gets it" }, clears: ["person"] },
    },
    "PUT /api/lifecycle/steps": { status: 422, body: { detail: "“lend” is there twice.", field: "steps" } },
  });
  shown = await show(<StepBook close={vi.fn()} />);
  await shown.sees("These are your own.");
  await shown.submit();
  expect(shown.one("[role=alert]").textContent).toBe("“lend” is there twice.");
  expect(shown.button("Bring back what ships")).toBeTruthy();
});

const over = {
  id: 1, asset: 3, name: "salt-nb-01", number: "A-00003", kind: "laptop", serial: "H1", model: "L14", person: "Una Vale",
  department: "", place: "", receiver: "Una Vale", lent: true, given_at: "2026-05-01T10:00:00Z", given_by: "ines",
  due: "2026-05-20", overdue: 12, acknowledged_at: null, acknowledged_by: "", left: true,
}; // biome-ignore format: one hand-over

test("what is overdue and what a leaver holds is said, and can be narrowed to", async () => {
  serverOf({
    "GET /api/me": me("operator"),
    "GET /api/lifecycle/hand-overs": {
      body: [
        over,
        {
          ...over,
          id: 2,
          name: "salt-nb-02",
          overdue: 0,
          left: false,
          acknowledged_at: "2026-05-02T10:00:00Z",
          acknowledged_by: "U.",
        },
      ],
    },
  });
  shown = await show(<HandOvers at={undefined} />);
  await shown.sees("12 days overdue");
  expect(shown.text()).toContain("has left");
  await shown.click(shown.button("Overdue 1"));
  expect(shown.text()).not.toContain("salt-nb-02");
});

test("settings of a scenario are sent as numbers, amounts as they were typed", () => {
  const draft = {
    life: { laptop: "48", server: "" }, price: { laptop: "985.50" }, memory: { laptop: "16" },
    earlier: { faults: "3" }, budget: "", quarters: "6",
  }; // biome-ignore format: one draft
  expect(settingsOf(draft)).toEqual({
    life: { laptop: 48, server: null },
    price: { laptop: "985.50" },
    memory: { laptop: 16 },
    earlier: { faults: 3 },
    budgets: [null],
    quarters: 6,
  });
});

const sums = {
  devices: 2,
  cost: "2400.00",
  book: "1600.00",
  depreciation: "66.66",
  contracts: "0.00",
  licences: "0.00",
  energy: "0.00",
  month: "66.66",
};

test("the money of a selection says what is in no figure, and why", async () => {
  serverOf({
    "GET /api/me": me("viewer"),
    "GET /api/valuation/money": {
      body: {
        day: "2026-06-01", currency: "EUR", by: "department", whole: sums, groups: [{ name: "", ...sums }], rows: [],
        apart: [{ why: "no price is known", devices: 4 }], without_rate: ["Abroad: no rate of NOK"], loose: [],
      }, // biome-ignore format: one answer
    },
  });
  shown = await show(<MoneyLens filter="" at={undefined} />);
  await shown.sees("EUR book value");
  expect(shown.text()).toContain("4 devices: no price is known");
  expect(shown.text()).toContain("Abroad: no rate of NOK");
  expect(shown.text()).toContain("none known");
});

test("a rule that cannot be is refused at its field, and its changes go along", async () => {
  const called = serverOf({
    "POST /api/valuation/rules": {
      status: 422,
      body: { detail: "A useful life is 1 to 1200 months, not 0.", field: "months" },
    },
  });
  shown = await show(<RuleForm held={null} close={vi.fn()} />);
  await shown.type("Name", "Laptops");
  await shown.type("Useful life, months", "0");
  await shown.click(shown.button("Change it from a day on"));
  await shown.submit();
  expect(shown.one("[role=alert]").textContent).toContain("1 to 1200 months");
  expect(called.at(-1)?.body).toMatchObject({
    name: "Laptops",
    months: 0,
    changes: [{ months: 0, residual: "0" }],
  });
  await shown.click(shown.button("Take this change away"));
  await shown.submit();
  expect(called.at(-1)?.body).toMatchObject({ months: 0, changes: [] });
});

test("warnings are named by their sort and lead to their balance", async () => {
  serverOf({
    "GET /api/licences/warnings": {
      body: [
        {
          sort: "unlicensed",
          text: "2 installations without a licence: 1 person short.",
          balance: "device:3",
          name: "Quill",
          licence: null,
        },
      ],
    },
  });
  shown = await show(<Warnings at={undefined} />);
  await shown.sees("Unlicensed");
  expect(shown.text()).toContain("1 person short");
});
