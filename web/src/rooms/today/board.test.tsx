import { afterEach, expect, test, vi } from "vitest";
import type { Schemas } from "../../api/client";
import { me, type Shown, serverOf, show } from "../../parts/testing";
import type { Card } from "./answers";
import { Board } from "./Board";
import { BLANK } from "./cards";

vi.mock("@tanstack/react-router", () => ({
  useNavigate: () => vi.fn(),
  Link: (props: { children: unknown; search?: { q?: string } }) => (
    <a href={`#${props.search?.q ?? ""}`}>{props.children as never}</a>
  ),
}));

let shown: Shown;
afterEach(() => shown?.end());

const card = (key: string, more: Partial<Card> = {}): Card => ({
  ...BLANK,
  key,
  title: `Card ${key}`,
  ...more,
});
const board = (more: Partial<Schemas["BoardOut"]>): Schemas["BoardOut"] => ({
  key: "morning",
  name: "The morning",
  ships: true,
  mine: false,
  access: "read",
  role: "",
  made_by: "",
  version: 0,
  cards: [card("one"), card("two", { shown: "figure" })],
  drawer: [card("three")],
  ...more,
});
const boards = (...all: Schemas["BoardOut"][]): Schemas["BoardsOut"] => ({
  chosen: all[0]?.key ?? "",
  bands: ["kind", "place"],
  boards: all,
});

/** Answers cards as the server does: one of them waits the first time it is asked. */
function answering() {
  const waited = new Set<string>();
  return (body: unknown) => {
    const { cards } = body as { cards: Card[] };
    return {
      body: cards.map((c) => {
        const waits = c.key === "two" && !waited.has(c.key);
        waited.add(c.key);
        return {
          key: c.key,
          trouble: c.filter === "wrong" ? "filter: no such field" : "",
          waits,
          milliseconds: 1,
          count: waits ? null : 7,
          amount: null,
          before: null,
          whole: null,
          filter: c.filter,
          report: null,
          at: null,
          parts: waits ? [] : [{ label: "laptop", count: 7, filter: "kind = laptop", parts: [] }],
          points: [],
          columns: [],
          rows: [],
          assets: [],
        };
      }),
    };
  };
}

async function draw(held: Schemas["BoardOut"]) {
  const called = serverOf({
    "GET /api/boards": { body: boards(held) },
    "POST /api/boards/answers": answering(),
    "POST /api/boards": { body: boards(held) },
    "PUT /api/boards/7": { body: boards(held) },
    "POST /api/boards/chosen": { body: boards(held) },
    "GET /api/reports/list": { body: [] },
    "GET /api/me": me("administrator"),
  });
  shown = await show(<Board at={undefined} />);
  return called;
}
const bodies = (called: Awaited<ReturnType<typeof draw>>, call: string) =>
  called.filter((c) => c.call === call).map((c) => c.body as Schemas["BoardIn"]);

test("what waits is asked for again, and what is there is shown", async () => {
  const called = await draw(board({}));
  const asked = bodies(called, "POST /api/boards/answers").map((b) => b.cards.map((c) => c.key));
  expect(asked).toEqual([["one", "two"], ["two"]]);
  expect(shown.all("h3").map((h) => h.textContent)).toEqual(["Card one", "Card two"]);
  expect(shown.text()).toContain("laptop");
});

test("laying out a board that ships makes one of one's own, and the card taken off is in its drawer", async () => {
  const called = await draw(board({}));
  await shown.menu("This card");
  await shown.click(shown.button("Take it off"));
  const [made] = bodies(called, "POST /api/boards");
  expect([made?.name, made?.access, made?.cards.map((c) => c.key), made?.drawer?.map((c) => c.key)]).toEqual([
    "The morning, mine",
    "own",
    ["two"],
    ["one", "three"],
  ]);
});

test("a board of one's own is changed as it is: a card from the drawer, wider, shown another way", async () => {
  const called = await draw(board({ key: "7", ships: false, mine: true, access: "own", version: 4 }));
  await shown.click(shown.button("Drawer"));
  expect(shown.text()).toContain("None is ever lost");
  await shown.click(shown.button("Put it up: Card three"));
  const corner = shown.one("button[aria-label^='Size of Card one']");
  const press = (key: string) =>
    shown.act(() =>
      corner.dispatchEvent(new KeyboardEvent("keydown", { key, bubbles: true, cancelable: true })),
    );
  await press("ArrowLeft"); // as narrow as can be: nothing is kept
  await press("ArrowRight");
  await press("ArrowDown");
  const told = bodies(called, "PUT /api/boards/7");
  expect(told[0]?.version).toBe(4);
  expect(told[0]?.cards.map((c) => c.key)).toEqual(["one", "two", "three"]);
  expect(told.slice(1).map((b) => [b.cards[0]?.wide, b.cards[0]?.high])).toEqual([
    [2, 1],
    [1, 2],
  ]);
});

test("a card is narrowed in place, and its board stays as it is", async () => {
  const called = await draw(board({ key: "7", ships: false, mine: true, access: "own", version: 4 }));
  await shown.menu("This card");
  await shown.type("Narrowed here, and not kept", "place = Saltholm");
  await shown.act(() =>
    shown.one("form").dispatchEvent(new Event("submit", { bubbles: true, cancelable: true })),
  );
  const asked = bodies(called, "POST /api/boards/answers").at(-1)?.cards as Card[];
  expect(asked[0]?.filter).toBe("place = Saltholm");
  expect(bodies(called, "PUT /api/boards/7")).toEqual([]);
  await shown.click(shown.button("place = Saltholm ×"));
  expect(shown.text()).not.toContain("place = Saltholm ×");
});

test("a card is tried before it is put up, and what is wrong with it is said", async () => {
  const called = await draw(board({ key: "7", ships: false, mine: true, access: "own", version: 4 }));
  await shown.click(shown.button("Put a card here"));
  await shown.type("Title", "Laptops");
  await shown.type("Question", "wrong");
  await shown.submit();
  expect(shown.text()).toContain("no such field");
  expect(bodies(called, "PUT /api/boards/7")).toEqual([]);
  await shown.type("Question", "kind = laptop");
  await shown.submit();
  const [kept] = bodies(called, "PUT /api/boards/7");
  expect(kept?.cards.at(-1)).toMatchObject({
    title: "Laptops",
    filter: "kind = laptop",
    shown: "bars",
    by: "kind",
  });
});

test("whose first board it is says who sees to people", async () => {
  const called = await draw(board({ key: "7", ships: false, mine: true, access: "all", version: 4 }));
  await shown.click(shown.button("This board"));
  await shown.type("First board of", "viewer");
  await shown.submit();
  expect(bodies(called, "PUT /api/boards/7")[0]).toMatchObject({ role: "viewer", access: "all", version: 4 });
});
