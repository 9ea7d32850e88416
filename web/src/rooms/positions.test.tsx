import { afterEach, expect, test, vi } from "vitest";
import { me, type Shown, serverOf, show } from "../parts/testing";
import { Positions } from "./licences/Positions";

const stood = vi.hoisted(() => ({ search: {} as Record<string, string> }));
vi.mock("@tanstack/react-router", () => ({
  useNavigate: () => vi.fn(),
  useSearch: () => stood.search,
  Link: (props: { children: unknown }) => <a href="#x">{props.children as never}</a>,
}));

let shown: Shown;
afterEach(() => {
  shown?.end();
  stood.search = {};
});

const notes = {
  key: "device:1", name: "Tern Notes", products: ["Tern Notes"], metric: "device", unit: "devices", pack: 1, needed: 11,
  entitled: 12, assigned: 2, short: 9, spare: 10, installations: 15, licences: [{ id: 5, name: "Notes" }], cure: "342.00",
  spare_value: "380.00", here: null,
}; // biome-ignore format: one balance
const stray = {
  asset: 9, name: "salt-pc-34", person: "", product: "Tern Notes", release: "4", since: "2026-01-01",
  reasons: [{ licence: "Notes", reason: "it is for ticketing alone" }],
}; // biome-ignore format: one use
const cure = {
  free: [],
  freed: 0,
  buy: 9,
  packs: 9,
  price: "38.00",
  cost: "342.00",
  anew: 9,
  decides: false,
};
const why = {
  ...notes, working: [{ sign: "=", figure: 9, text: "short", note: "while 10 are spare that do not fit" }],
  cures: [cure], uncovered: [stray], uncovered_all: 9, left_out: [], departments: [], warnings: [], spare_idle: 0,
}; // biome-ignore format: one answer

function told(balance: object, working: object) {
  serverOf({
    "GET /api/me": me("manager"),
    "GET /api/licences/positions": {
      body: {
        day: "2026-06-01", currency: "EUR", balances: [balance], cure: "342.00", uncosted: 0, spare_value: "380.00",
        ending: 1,
      }, // biome-ignore format: one answer
    },
    "GET /api/licences/positions/device%3A1": { body: { ...why, ...working } },
  });
}

test("a cure that more of what is owned would not be is to be bought anew", async () => {
  told(notes, {});
  shown = await show(<Positions at={undefined} />);
  await shown.sees("Buy 9 at 38 EUR.");
  expect(shown.text()).toContain("Anew: more of what is owned would not cover them.");
  expect(shown.text()).toContain("while 10 are spare that do not fit");
  expect(shown.text()).toContain("it is for ticketing alone");
  expect(shown.text()).not.toContain("Covered here");
});

test("of several that are bought it is said how many anew", async () => {
  told(notes, { cures: [{ ...cure, buy: 12, packs: 12, anew: 4, cost: "456.00" }] });
  shown = await show(<Positions at={undefined} />);
  await shown.sees("4 of them anew");
});

test("where no price is known to cure it, nothing is promised", async () => {
  told({ ...notes, cure: null }, { cures: [{ ...cure, cost: null }] });
  shown = await show(<Positions at={undefined} />);
  await shown.sees("No purchase is known to cure this; the reasons are below.");
  expect(shown.text()).not.toContain("Anew");
  expect(shown.one("tbody tr").textContent).toContain("not known");
});

test("in a branch it is said what of the need is covered there", async () => {
  stood.search = { in: "department:Ticketing" };
  told({ ...notes, here: { name: "here", covered: 2, uncovered: 3, uses: 7 } }, {});
  shown = await show(<Positions at={undefined} />);
  await shown.sees("Standing in Ticketing");
  expect(shown.one("tbody tr").textContent).toContain("2 of 5");
  expect(shown.text()).not.toContain("Counted by");
});

test("a branch where nothing is licensed does not say that nothing is owned", async () => {
  stood.search = { in: "place:Grey Ness" };
  serverOf({
    "GET /api/licences/positions": {
      body: {
        day: "2026-06-01",
        currency: "EUR",
        balances: [],
        cure: "0.00",
        uncosted: 0,
        spare_value: "0.00",
        ending: 0,
      },
    },
  });
  shown = await show(<Positions at={undefined} />);
  await shown.sees("Nothing that is licensed is used in Grey Ness.");
  expect(shown.text()).not.toContain("No licence is entered yet");
});
