import { afterEach, expect, test, vi } from "vitest";
import type { Schemas } from "../../api/client";
import { type Shown, serverOf, show } from "../../parts/testing";
import type { Answer, Card } from "./answers";
import { CardShown } from "./CardShown";
import { BLANK, linesOf } from "./cards";
import { FirstSteps } from "./FirstSteps";
import { Picture } from "./picture";
import { Wants } from "./Wants";

vi.mock("@tanstack/react-router", () => ({
  Link: (props: { children: unknown; search?: { q?: string }; to?: string }) => (
    <a href={`#${props.search?.q ?? props.to ?? ""}`}>{props.children as never}</a>
  ),
}));

let shown: Shown;
afterEach(() => shown?.end());

const answer: Answer = {
  key: "c",
  trouble: "",
  waits: false,
  milliseconds: 3,
  count: 4,
  amount: null,
  before: null,
  whole: null,
  filter: "kind = laptop",
  report: null,
  at: null,
  parts: [],
  points: [],
  columns: [],
  rows: [],
  assets: [],
};
const part = (label: string, count: number, parts: Answer["parts"] = []) => ({
  label,
  count,
  filter: `place = ${label}`,
  parts,
});
const card = (more: Partial<Card>): Card => ({ ...BLANK, key: "c", title: "A card", ...more });
const links = () => shown.all("a").map((a) => [a.textContent, a.getAttribute("href")]);

async function draw(more: Partial<Card>, told: Partial<Answer>) {
  shown = await show(<CardShown card={card(more)} answer={{ ...answer, ...told }} at={undefined} />);
}

test("bars, rings, stacks and fields open the rows of each part", async () => {
  await draw({ shown: "bars" }, { parts: [part("Saltholm", 3), part("Averne", 1)] });
  expect(links()).toEqual([
    ["3", "#place = Saltholm"],
    ["1", "#place = Averne"],
  ]);
  shown.end();
  await draw(
    { shown: "ring", whole: "kind = laptop", by: "" },
    { parts: [part("yes", 9), part("no", 1)], whole: 10 },
  );
  expect(shown.text()).toContain("90 %");
  expect(links().map(([n]) => n)).toEqual(["9", "1"]);
  for (const way of ["stacked", "heat"] as const) {
    shown.end();
    await draw(
      { shown: way, and_by: "kind" },
      { parts: [part("Saltholm", 3, [part("till", 2), part("kiosk", 1)])] },
    );
    expect(links().map(([, to]) => to)).toContain("#place = kiosk");
  }
});

test("a figure says what it was, and a list what more there is", async () => {
  await draw({ shown: "figure", days: 30 }, { before: 6 });
  expect(shown.text()).toContain("2 fewer than 30 days before");
  shown.end();
  await draw(
    { shown: "list" },
    {
      count: 12,
      columns: [{ name: "name", label: "Name", type: "text" }],
      rows: [["salt-lt-01"]],
      assets: [7],
    },
  );
  expect(shown.text()).toContain("All 12");
  expect(links()[0]?.[0]).toBe("salt-lt-01");
});

test("a card that cannot be asked says why, and words are words", async () => {
  await draw({ shown: "bars" }, { trouble: "by: no such field" });
  expect(shown.text()).toContain("It shows nothing: by: no such field");
  shown.end();
  shown = await show(
    <CardShown
      card={card({ of: "text", shown: "text", text: "Call Ines" })}
      answer={undefined}
      at={undefined}
    />,
  );
  expect(shown.text()).toContain("Call Ines");
});

test("what a card shows is written to a file as it is", () => {
  const two = { ...answer, parts: [part("Saltholm", 3, [part("till", 2), part("kiosk", 1)])] };
  expect(linesOf(card({ shown: "heat", by: "place", and_by: "kind" }), two).rows).toEqual([
    ["Saltholm", "till", 2],
    ["Saltholm", "kiosk", 1],
  ]);
  const line = { ...answer, points: [{ day: "2026-11-01T10:00:00Z", count: 3 }] };
  expect(linesOf(card({ shown: "line" }), line).rows).toEqual([["2026-11-01", 3]]);
  expect(linesOf(card({ shown: "figure", of: "report" }), { ...answer, amount: 12.5 }).rows).toEqual([
    [12.5],
  ]);
  expect(linesOf(card({}), undefined).rows).toEqual([]);
});

const told: Schemas["TodayOut"] = {
  wants: [
    {
      key: "intake",
      grade: "warn",
      count: 46,
      text: "found devices wait at intake",
      beside: "",
      button: "Decide",
      to: "/discovery/intake",
      search: {},
    },
    {
      key: "broken",
      grade: "bad",
      count: 0,
      text: "“broken” could not be reckoned",
      beside: "no table",
      button: "",
      to: "",
      search: {},
    },
  ],
  aside: [{ key: "overdue", text: "2 loans are overdue", how: "until", until: "2026-12-01T00:00:00Z" }],
  done: 1,
  first: [],
};

test("a line has its count and its way, one that failed says why, and each can be put aside", async () => {
  const called = serverOf({
    "POST /api/today/aside": { body: told },
    "DELETE /api/today/aside/overdue": { status: 204, body: undefined },
    "GET /api/today": { body: told },
  });
  shown = await show(<Wants told={told} />);
  expect(links()).toEqual([["Decide", expect.anything()]]);
  expect(shown.text()).toContain("no table");
  expect(shown.text()).toContain("Put aside: 1 · Done today: 1");
  await shown.click(shown.button("Show it again"));
  expect(called.map((c) => c.call)).toContain("DELETE /api/today/aside/overdue");
});

test("the way to the first sweep leads to its next step", async () => {
  const step = (key: string, done: boolean) => ({ key, text: `Do ${key}`, done, to: "/discovery" });
  shown = await show(
    <FirstSteps steps={[step("networks", true), step("credentials", false), step("sweep", false)]} />,
  );
  expect(links()).toHaveLength(1);
  expect(shown.text()).toContain("Do networks (done)");
});

test("a map is drawn by the room whose it is, of what the card asks", async () => {
  const drawn = (props: { filter: string; at: string | undefined }) => <p>drawn of {props.filter}</p>;
  shown = await show(
    <Picture.Provider value={drawn}>
      <CardShown card={card({ shown: "map" })} answer={answer} at={undefined} />
    </Picture.Provider>,
  );
  expect(shown.text()).toContain("drawn of kind = laptop");
  expect(links()).toEqual([["4 devices", "#kind = laptop"]]);
});
