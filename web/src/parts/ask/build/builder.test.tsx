import { afterEach, expect, test, vi } from "vitest";
import type { Schemas } from "../../../api/client";
import type { Registry } from "../../../api/types";
import { me, type Shown, serverOf, show } from "../../testing";
import { Builder } from "./Builder";
import { emptyGroup, exchanged, newBracket, newRule } from "./model";

let shown: Shown;
afterEach(() => shown?.end());

const field = (name: string, label: string, type = "text") => ({
  name,
  label,
  type,
  meaning: label,
  choices: [],
});
const registry = {
  fields: [field("kind", "Kind"), field("memory", "Memory", "memory")],
  groups: { software: [field("product", "Product"), field("version", "Version", "version")] },
} as unknown as Registry;
const draft: Schemas["DraftGroup"] = {
  type: "group",
  id: 9,
  mode: "all",
  items: [
    { type: "rule", id: 1, field: "kind", op: "in", text: "server, till" },
    { type: "bracket", id: 3, list: "software", quantity: "count", op: ">=", number: "2",
      inner: { type: "group", id: 2, mode: "all", items: [] } },
    { type: "set", id: 4, name: "Bridge" },
    { type: "written", id: 5, text: "unread accounts" },
  ],
}; // biome-ignore format: one draft
const answers = {
  "GET /api/me": me("viewer"),
  "GET /api/sets": { body: [{ name: "Bridge" }] },
  "GET /api/filter/complete": { body: [{ text: "Ember", kind: "value", detail: "", start: 0 }] },
  "POST /api/filter/draft": { body: draft },
  "POST /api/filter/written": { body: { text: "kind = server", problems: [] } },
  "GET /api/assets": { body: { total: 7, of: 9, sentence: "", as_of: null, rows: [] } },
};

test("a question is laid out, changed in every part, counted as it is built, and asked as the server writes it", async () => {
  const called = serverOf(answers);
  const submit = vi.fn();
  shown = await show(<Builder value="kind = server" registry={registry} submit={submit} close={vi.fn()} />);
  await shown.sees("unread accounts");
  await shown.sees("7 assets");
  await shown.type("Value", "till");
  await shown.type("Comparison", "=");
  await shown.type("Add a list", "software");
  await shown.type("Add a set", "Bridge");
  await shown.type("How these are joined", "any");
  await shown.click(shown.button("+ group")); // the first: of what the bracket asks
  await shown.click(shown.all("[aria-label='Take it out']")[2] as HTMLElement); // the set
  await shown.click(shown.button("Ask this"));
  expect(submit).toHaveBeenCalledWith("kind = server");
  const sent = called.filter((c) => c.call === "POST /api/filter/written").at(-1)?.body as typeof draft;
  expect(sent.items[3]).toMatchObject({ list: "software", inner: { mode: "any" } });
  expect(sent.items.map((i) => i.type)).toEqual(["rule", "bracket", "written", "bracket", "set"]);
  expect(sent.items[0]).toEqual({ type: "rule", id: 1, field: "kind", op: "=", text: "till" });
  expect(sent.items[1]).toMatchObject({ inner: { items: [{ type: "group", mode: "any" }] } });
  const ids = sent.items.map((i) => i.id);
  expect(new Set(ids).size).toBe(ids.length);
});

test("what is wrong is said beside its item and the question is not asked", async () => {
  const problems = [{ id: 1, detail: "“lots” is no value for kind." }];
  serverOf({ ...answers, "POST /api/filter/written": { body: { text: "", problems } } });
  const submit = vi.fn();
  shown = await show(<Builder value="kind = lots" registry={registry} submit={submit} close={vi.fn()} />);
  await shown.sees("“lots” is no value for kind.");
  expect(shown.one("[role=alert]").textContent).toBe("“lots” is no value for kind.");
  expect(shown.button("Ask this").disabled).toBe(true);
  expect(shown.text()).not.toContain("everything");
});

test("a filter that cannot be read begins anew, and says so", async () => {
  const refused = { status: 422, body: { detail: "Here “and” stands alone.", status: 422 } };
  serverOf({ ...answers, "POST /api/filter/draft": refused });
  shown = await show(<Builder value="and" registry={registry} submit={vi.fn()} close={vi.fn()} />);
  await shown.sees("Here “and” stands alone.");
  await shown.click(shown.button("+ condition"));
  expect(shown.text()).not.toContain("stands alone");
});

test("an item is exchanged and taken out wherever it lies", () => {
  const bracket = newBracket("disks");
  const inside = newRule("size");
  bracket.inner.items = [inside];
  const group = { ...emptyGroup(), items: [bracket] };
  const filled = exchanged(group, inside.id, { ...inside, op: ">", text: "1 TB" });
  expect(filled.items).toEqual([
    { ...bracket, inner: { ...bracket.inner, items: [{ ...inside, op: ">", text: "1 TB" }] } },
  ]);
  expect(exchanged(filled, inside.id, null).items).toEqual([
    { ...bracket, inner: { ...bracket.inner, items: [] } },
  ]);
  expect(exchanged(group, bracket.id, null).items).toEqual([]);
});
