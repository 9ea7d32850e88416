import { afterEach, expect, test, vi } from "vitest";
import { amount, minorAmount } from "../parts/format";
import { me, type Shown, serverOf, show } from "../parts/testing";
import { BalanceBar } from "./licences/Balance";
import { Keys } from "./licences/Keys";
import { Positions } from "./licences/Positions";
import { SayDialog } from "./licences/SayDialog";
import { CashBars } from "./lifecycle/CashBars";
import { Contracts } from "./lifecycle/Contracts";
import { ReceiveForm } from "./lifecycle/OrderForms";
import { River } from "./lifecycle/River";

const went = vi.fn();
vi.mock("@tanstack/react-router", () => ({
  useNavigate: () => went,
  useSearch: () => ({}),
  useRouterState: () => "/licences",
  Link: (props: { children: unknown }) => <a href="#x">{props.children as never}</a>,
}));

let shown: Shown;
afterEach(() => {
  went.mockClear();
  shown?.end();
});

const balance = {
  key: "core:7", name: "Ostler DB", products: ["Ostler DB"], metric: "core", unit: "cores", pack: 2, needed: 28,
  entitled: 20, assigned: 12, short: 8, spare: 0, installations: 2, licences: [{ id: 3, name: "Ostler cores" }],
  cure: "6200.00", spare_value: null,
}; // biome-ignore format: one balance
const why = {
  ...balance,
  working: [
    { sign: "", figure: 28, text: "cores needed", note: "" },
    { sign: "-", figure: 20, text: "cores entitled", note: "10 packs of 2" },
    { sign: "=", figure: 8, text: "short", note: "4 packs of 2" },
  ],
  cures: [
    { free: [], freed: 0, buy: 8, packs: 4, price: "1550.00", cost: "6200.00", decides: false },
  ],
  uncovered: [], uncovered_all: 0, left_out: [], departments: [], warnings: ["Held by people who have left: Una."],
}; // biome-ignore format: one working

test("amounts are grouped by their digits and lose none", () => {
  expect(amount("1440.00")).toBe("1,440");
  expect(amount("-12345678901234567.05")).toBe("−12,345,678,901,234,567.05");
  expect(minorAmount(125005, "EUR")).toBe("1,250.05 EUR");
  expect(minorAmount(7, "EUR")).toBe("0.07 EUR");
  expect(minorAmount(1250, "JPY")).toBe("1,250 JPY");
});

test("a position is told with its working and its cure", async () => {
  serverOf({
    "GET /api/me": me("manager"),
    "GET /api/licences/positions": {
      body: {
        day: "2026-06-01",
        currency: "EUR",
        balances: [balance],
        cure: "6200.00",
        uncosted: 0,
        spare_value: "0.00",
        ending: 1,
      },
    },
    "GET /api/licences/positions/core%3A7": { body: why },
  });
  shown = await show(<Positions at={undefined} />);
  await shown.sees("8 short");
  expect(shown.text()).toContain("1 term ends within 60 days");
  await shown.sees("− 20");
  expect(shown.text()).toContain("Buy 4 packs of 2 at 1,550 EUR.");
  expect(shown.text()).toContain("Held by people who have left");
});

test("a bar says its figures to those who cannot see it", async () => {
  shown = await show(<BalanceBar needed={11} entitled={12} short={9} spare={10} unit="devices" most={12} />);
  expect(shown.all("svg")[0]?.getAttribute("aria-label")).toBe("11 devices needed, 12 entitled");
});

test("keys of products nobody licenses are shown on wish alone", async () => {
  const key = {
    id: null,
    licence: null,
    licence_name: "",
    product: "Tern",
    tail: "AAAAA",
    activations: null,
    devices: [{ asset: 1, name: "pc" }],
    problem: "nobody entered it",
  };
  serverOf({ "GET /api/me": me("viewer"), "GET /api/licences/keys": { body: { keys: [key] } } });
  shown = await show(<Keys at={undefined} />);
  await shown.sees("1 key found on devices");
  expect(shown.all("tbody tr")).toHaveLength(0);
  await shown.click(shown.button("Show them"));
  expect(shown.all("tbody tr")).toHaveLength(1);
});

test("what is said of a device is refused at its field and kept in the form", async () => {
  serverOf({
    "GET /api/me": me("operator"),
    "POST /api/licences/said": {
      status: 422,
      body: { detail: "Say why; an auditor will ask.", field: "why", status: 422 },
    },
  });
  shown = await show(<SayDialog product="Ostler DB" assets={[4]} licences={[]} close={() => {}} />);
  await shown.click(shown.button("Save"));
  expect(shown.text()).toContain("Say why; an auditor will ask.");
});

test("the river says which notice must go out first and what was missed", async () => {
  const ending = {
    stream: "contracts",
    name: "Printer lease",
    day: "2026-12-20",
    path: "/lifecycle/contracts/1",
    count: 17,
    notice_by: "2026-11-30",
    missed: false,
    decided: "",
    goes_on: true,
    over: false,
  };
  const months = Array.from({ length: 12 }, (_, n) =>
    new Date(Date.UTC(2026, 10 + n, 1)).toISOString().slice(0, 10),
  );
  serverOf({
    "GET /api/lifecycle/river": {
      body: {
        day: "2026-11-24", since: "2026-11-01", months, streams: ["contracts", "maintenance"],
        endings: [ending, { ...ending, name: "Cameras", path: "/lifecycle/contracts/2", missed: true }], first_notice: ending,
      },
    },
    "GET /api/lifecycle/cash": { body: { currency: "EUR", total: "1180.00", apart: [], months: [{ month: "2026-11-01", total: "1180.00", currencies: {}, payments: [] }] } },
  }); // biome-ignore format: one answer
  shown = await show(<River at={undefined} />);
  await shown.sees("Notice of Printer lease must go out by 30 November 2026.");
  expect(shown.text()).toContain("notice was not given: Cameras");
  expect(shown.text()).toContain("nothing in these months");
  shown.end();
  shown = await show(<CashBars at={undefined} />);
  await shown.sees("1,180");
});

test("a contract whose notice is near or past says so", async () => {
  const row = {
    id: 1,
    name: "Lease",
    provider: "Q",
    kind: "lease",
    number: "",
    state: "in force",
    starts: "2025-01-01",
    ends: "2026-12-20",
    notice_by: "2026-11-30",
    days_left: 26,
    notice_days: 6,
    renews: 12,
    times: 0,
    cost: null,
    currency: "",
    every: "",
    covers: "",
    devices: 0,
    decided: "",
  };
  serverOf({
    "GET /api/lifecycle/contracts": {
      body: [
        row,
        { ...row, id: 2, notice_days: -1 },
        { ...row, id: 3, decided: "let go" },
        { ...row, id: 4, ends: null },
      ],
    },
  });
  shown = await show(<Contracts at={undefined} />);
  await shown.sees("no end agreed");
  const told = shown.all("tbody tr").map((r) => r.textContent);
  expect(told[0]).toContain("notice by 30 November 2026, 6 days");
  expect(told[1]).toContain("goes on: notice is past");
  expect(told[2]).toContain("let go");
  expect(told[3]).toContain("no end agreed");
});

test("what is received is sent by its serials, and a fault stands at them", async () => {
  const called = serverOf({
    "POST /api/lifecycle/order-lines/5/receive": {
      status: 422,
      body: { detail: "HB-1 is there twice.", field: "serials", status: 422 },
    },
  });
  const line = {
    id: 5,
    kind: "laptop",
    manufacturer: "",
    model: "",
    quantity: 4,
    received: 1,
    price: "1",
    currency: "EUR",
    warranty: 36,
    cost_centre: "",
    last: null,
  };
  const order = {
    id: 1,
    number: "PO-1",
    supplier: "Q",
    day: "2026-01-01",
    expected: null,
    open: true,
    late: false,
    note: "",
    lines: [line],
  };
  shown = await show(<ReceiveForm order={order} line={line} close={() => {}} />);
  expect(shown.text()).toContain("3 of 4 still to come");
  await shown.type("Serial numbers", "HB-1 HB-1");
  await shown.click(shown.button("Receive"));
  expect(shown.text()).toContain("HB-1 is there twice.");
  expect(called.filter((c) => c.call.startsWith("POST")).length).toBe(1);
});
