import { useState } from "react";
import { afterEach, expect, test, vi } from "vitest";
import type { Schemas } from "../../api/client";
import { me, type Shown, serverOf, show } from "../../parts/testing";
import { ByPlace } from "./ByPlace";
import { First } from "./First";
import { GradeTree, type Tree } from "./GradeTree";
import { Grading } from "./Grading";
import { KeptPromises } from "./KeptPromises";
import { OwnRules } from "./OwnRules";
import { SupportEnds } from "./SupportEnds";

vi.mock("@tanstack/react-router", () => ({
  useSearch: () => ({}),
  useNavigate: () => vi.fn(),
  Link: (props: { children: unknown; search?: { q?: string }; params?: { advisory?: string } }) => (
    <a href={`#${props.search?.q ?? props.params?.advisory ?? ""}`}>{props.children as never}</a>
  ),
}));

let shown: Shown;
afterEach(() => shown?.end());

const grades = (now = 0, week = 0) => ({ "act now": now, "this week": week, "this month": 0, watch: 0 });
const change = (key: string, more: Partial<Schemas["ProposedChange"]> = {}): Schemas["ProposedChange"] => ({
  key,
  verb: "update",
  product: "quill",
  todo: "",
  rule: "",
  target: "16.1",
  targets: [{ under: "tallow 8", target: "16.1" }],
  devices: 2,
  advisories: 1,
  names: ["CVE-2026-99000001"],
  used: 1,
  score: 9.8,
  chance: 0.64,
  due: "2026-12-02T10:00:00Z",
  disturbs: "restarts a service",
  filter: "vulnerability[product = quill]",
  ends: grades(2),
  left: 3,
  word: "",
  ...more,
});
const closing = change("rule:5", { verb: "close", product: "port 23", rule: "Telnet answers", todo: "Use SSH.",
  target: "", targets: [], advisories: 0, names: [], used: 0, score: null, chance: null, disturbs: "",
  filter: 'vulnerability[own = yes and id = "Telnet answers"]', ends: grades(0, 3), left: 0 }); // biome-ignore format: one change
const page = (
  of: Schemas["ProposedChange"],
  more: Partial<Schemas["ChangePage"]> = {},
): Schemas["ChangePage"] => ({
  change: of,
  filter: of.filter,
  product_id: 7,
  task: "update",
  ruling: "permitted",
  ruling_why: "the whole company: permitted",
  rights: { of: 2, without: 1, why: "there is no maintenance" },
  doable: { devices: 1, of: 2, why: [{ why: "Only an outpost reaches it.", devices: 1 }] },
  measures: [],
  desks: [{ id: 3, name: "Slipway desk" }],
  words: [],
  given: [],
  tasks: [],
  ...more,
});
const answers = {
  "GET /api/me": me("manager"),
  "GET /api/exposure/first": { body: { open: 5, stays: 0, changes: [change("update:quill"), closing] } },
  "GET /api/exposure/changes/update%3Aquill": { body: page(change("update:quill")) },
  "GET /api/exposure/changes/rule%3A5": { body: page(closing, { product_id: null, task: "", rights: null, ruling: "" }) },
  "GET /api/exposure/work": { body: [] },
  "GET /api/persons": { body: [] },
}; // biome-ignore format: calls and answers

test("a change says why it stands there, what stands in its way, and opens its devices", async () => {
  serverOf(answers);
  shown = await show(<First filter="kind = till" at={undefined} />);
  await shown.sees("Why quill comes first");
  const text = shown.text();
  for (const words of ["Update quill to 16.1 or later", "Close port 23", "restarts a service", "not told"])
    expect(text).toContain(words);
  expect(text).toContain("1 have none: there is no maintenance");
  expect(text).toContain("2 devices, 1 can be done from here.");
  expect(text).toContain("1: Only an outpost reaches it.");
  const links = shown.all("tbody a").map((a) => a.getAttribute("href")?.slice(1));
  expect(links[0]).toBe("kind = till and vulnerability[product = quill]");
  await shown.click(shown.all("tbody button").at(-1) as HTMLElement);
  await shown.sees("Why port 23 comes second");
  expect(shown.text()).toContain("Somebody has to do it");
  expect(shown.all("button").map((b) => b.textContent)).not.toContain("Make it a task");
});

test("a change is given as a ticket, refused only with a reason, and put first", async () => {
  const called = serverOf({
    ...answers,
    "POST /api/exposure/work": { body: [] },
    "POST /api/exposure/change-words": (body) =>
      (body as { reason: string }).reason || (body as { word: string }).word === "pin"
        ? { body: { id: 1 } }
        : { status: 422, body: { detail: "Say why it is not to be made.", status: 422, field: "reason" } },
  });
  shown = await show(<First filter="" at={undefined} />);
  await shown.sees("Give it to someone");
  await shown.click(shown.button("Give it to someone"));
  await shown.type("How", "ticket");
  await shown.submit();
  expect(called.find((c) => c.call === "POST /api/exposure/work")?.body).toMatchObject({
    key: "update:quill", how: "ticket", source: 3, person: "", day: "", expected: 2,
  }); // biome-ignore format: what is told
  await shown.click(shown.button("Refuse it"));
  await shown.submit();
  await shown.sees("Say why it is not to be made.");
  await shown.type("Why", "not in season");
  await shown.submit();
  await shown.click(shown.button("Put it first"));
  const words = called.filter((c) => c.call === "POST /api/exposure/change-words").map((c) => c.body);
  expect(words.at(-2)).toEqual({ key: "update:quill", word: "refuse", reason: "not in season" });
  expect(words.at(-1)).toEqual({ key: "update:quill", word: "pin", reason: "" });
});

test("whoever only looks is offered nothing to do; of a past day nobody is", async () => {
  serverOf({ ...answers, "GET /api/me": me("viewer") });
  shown = await show(<First filter="" at={undefined} />);
  await shown.sees("Why quill comes first");
  for (const words of ["Make it a task", "Give it to someone", "Put it first", "Refuse it"])
    expect(shown.all("button").map((b) => b.textContent)).not.toContain(words);
});

test("the best few are marked, and a number that is none is refused before it is asked", async () => {
  const called = serverOf({
    ...answers,
    "GET /api/exposure/first/budget": {
      body: { keys: ["rule:5"], ends: grades(0, 3), in_order: grades(2), open: 5 },
    },
  });
  shown = await show(<First filter="" at={undefined} />);
  await shown.sees("If there is time for only");
  await shown.type("How many changes there is time for", "0");
  await shown.sees("A whole number from 1 to 200, please.");
  expect(called.some((c) => c.call.includes("budget"))).toBe(false);
  await shown.type("How many changes there is time for", "1");
  await shown.sees("The best 1 end 3 of 5 findings (3 this week)");
  expect(shown.text()).toContain("The first 1 of the plain order end 2 (2 act now).");
  expect(shown.all("tbody tr")[1]?.textContent).toContain("in the best");
});

const rule: Schemas["OwnRuleOut"] = {
  id: 5, name: "Telnet answers", filter: "ports[port = 23]", sentence: "", wrong: "", grade: "this week", days: null,
  promised: 7, verb: "close", what: "port 23", todo: "Use SSH.", shipped: true, in_force: true, made_by: "",
  made_at: "2026-11-01T00:00:00Z", version: 2, devices: 3, late: 1, since: "2026-11-05T00:00:00Z",
  opens: 'vulnerability[own = yes and id = "Telnet answers"]',
}; // biome-ignore format: one rule

test("a rule is tried before it is kept; one that ships is not dropped, one that is wrong says so", async () => {
  const gone = {
    ...rule,
    id: 6,
    name: "Gone",
    wrong: "There is no field “x”.",
    shipped: false,
    devices: 0,
    late: 0,
  };
  const called = serverOf({
    "GET /api/me": me("manager"),
    "GET /api/exposure/own": { body: { rules: [rule, gone], verbs: ["close", "set right"], grades: [] } },
    "GET /api/filter/registry": { body: {} },
    "POST /api/exposure/own/tried": { body: { devices: 9, of: 40, sentence: "", names: ["salt-cam-01"] } },
    "PUT /api/exposure/own/5": { body: { rules: [], verbs: [], grades: [] } },
  });
  shown = await show(<OwnRules filter="" at={undefined} />);
  await shown.sees("Telnet answers");
  expect(shown.one("tbody a").getAttribute("href")).toBe(`#${rule.opens}`);
  await shown.click(
    shown.all("fieldset button").find((b) => b.textContent?.startsWith("Find nothing")) as HTMLElement,
  );
  await shown.sees("It is not asked: There is no field “x”.");
  await shown.click(
    shown.all("fieldset button").find((b) => b.textContent?.startsWith("Find something")) as HTMLElement,
  );
  await shown.click(shown.button("Change Telnet answers"));
  expect(shown.all("button").map((b) => b.textContent)).not.toContain("Drop");
  await shown.click(shown.button("Try it"));
  await shown.sees("It finds 9 devices of 40 now: salt-cam-01 …");
  await shown.type("Promised within, in days", "3");
  expect(shown.text()).not.toContain("It finds 9");
  await shown.submit();
  expect(called.find((c) => c.call === "PUT /api/exposure/own/5")?.body).toMatchObject({
    days: 3,
    version: 2,
  });
});

test("promises open what ended in time and late, and how", async () => {
  const on = (devices: number, late: string) => ({ devices, filter: `vulnerability[late = ${late}]` });
  const row = {
    grade: "act now",
    promised: 3,
    kept: 2,
    broken: 1,
    half_days: 2.5,
    open_late: on(4, "yes"),
    open_in_time: on(0, "no"),
  };
  serverOf({
    "GET /api/exposure/promises": (_, query) => ({ body: { since: "2026-09-01T00:00:00Z", rows: [{ ...row, kept: query.includes("days=30") ? 0 : 2 }] } }),
    "GET /api/exposure/promises/ended": (_, query) => ({ body: [{ asset: 1, device: query.includes("fared=late") ? "late-1" : "kept-1", advisory: "CVE-1",
      own: false, since: "2026-10-01T00:00:00Z", until: "2026-10-03T00:00:00Z", due: null, days: 2, how: "updated" }] }),
  }); // biome-ignore format: calls and answers
  shown = await show(<KeptPromises filter="" at={undefined} />);
  await shown.sees("67 %");
  await shown.click(shown.button("act now: 1 ended late"));
  await shown.sees("late-1");
  expect(shown.text()).toContain("updated");
  expect(shown.all("tbody a").map((a) => a.getAttribute("href"))).toContain("#vulnerability[late = yes]");
  await shown.click(shown.button("30 days"));
  await shown.sees("0 %");
});

test("ends of support are sifted by how near they are", async () => {
  const one = (product: string, days: number): Schemas["SupportOut"] => ({
    product, release: "1", sort: "software", day: "2026-12-01", days, by: "our own list", devices: 2, filter: `support[product = ${product}]`,
  }); // biome-ignore format: one row
  serverOf({ "GET /api/exposure/support": { body: [one("gone", -12), one("near", 9), one("far", 400)] } });
  shown = await show(<SupportEnds filter="" at={undefined} />);
  await shown.sees("over for 12 days");
  await shown.click(shown.all("fieldset button")[2] as HTMLElement);
  expect(shown.all("tbody tr").map((r) => r.textContent)).toHaveLength(1);
  expect(shown.one("tbody a").getAttribute("href")).toBe("#support[product = near]");
});

test("findings laid out by one thing cannot be laid out by it twice", async () => {
  const asked: string[] = [];
  serverOf({
    "GET /api/exposure/heat": (_, query) => {
      asked.push(query);
      return { body: { by: "grade", across: "place", columns: ["Saltholm"], rows: [{ name: "act now", within: "", filter: "f", of: 4, devices: 1, cells: [{ name: "Saltholm", devices: 1, filter: "cell" }] }] } };
    },
  }); // biome-ignore format: one answer
  shown = await show(<ByPlace filter="" at={undefined} />);
  await shown.click(shown.button("Grade"));
  expect(asked.at(-1)).toContain("by=grade&across=place");
  expect(shown.all("tbody a").map((a) => a.getAttribute("href"))).toEqual(["#f", "#cell"]);
});

const QUESTIONS = [
  { name: "use", asks: "Is it used?", answers: ["in use", "not known"] },
  { name: "reach", asks: "Reached?", answers: ["outside", "inside"] },
];

function Edited({ told }: { told: (tree: Tree) => void }) {
  const [tree, setTree] = useState<Tree>("watch");
  told(tree);
  return <GradeTree tree={tree} questions={QUESTIONS} set={setTree} />;
}

test("a place of the tree becomes a question with what stood there under each answer, and asks nothing twice", async () => {
  let tree: Tree = "";
  shown = await show(<Edited told={(t) => { tree = t; }} />); // biome-ignore format: one part
  await shown.type("At first", "use");
  expect(tree).toEqual({ use: { "in use": "watch", "not known": "watch" } });
  await shown.type("At first, use: in use", "act now");
  await shown.type("At first, use: not known", "reach");
  expect(tree).toEqual({
    use: { "in use": "act now", "not known": { reach: { outside: "watch", inside: "watch" } } },
  });
  const deepest = shown.all("select").at(-1) as HTMLSelectElement;
  expect([...deepest.options].map((o) => o.value)).not.toContain("use");
  await shown.type("At first", "this week");
  expect(tree).toBe("this week");
});

test("grades are rehearsed and what is refused stands by its part", async () => {
  const policy: Schemas["PolicyOut"] = {
    version: 0, tree: "watch", days: grades(), working: false, holidays: [], questions: QUESTIONS, grades: [], made_by: "", made_at: null, shipped: "watch",
  }; // biome-ignore format: one policy
  const called = serverOf({
    "GET /api/me": me("manager"),
    "GET /api/exposure/policy": { body: policy },
    "POST /api/exposure/policy/rehearsal": (body) =>
      (body as { days: Record<string, number> }).days["act now"] === 3
        ? { body: { before: grades(), after: grades(4), moved: [{ before: "watch", after: "act now", findings: 4 }], late_before: 1, late_after: 5 } }
        : { status: 422, body: { detail: "act now: out of bounds", status: 422, field: "days" } },
  }); // biome-ignore format: calls and answers
  shown = await show(<Grading />);
  await shown.sees("What a finding asks for");
  await shown.click(shown.button("Rehearse on what is open"));
  await shown.sees("act now: out of bounds");
  await shown.type("Act now", "3");
  await shown.click(shown.button("Rehearse on what is open"));
  await shown.sees("4 findings would move from watch to act now");
  expect(called.some((c) => c.call.startsWith("PUT"))).toBe(false);
});
