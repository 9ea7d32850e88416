/** What the builder works on: a filter as groups, conditions and brackets. Text and tree turn into it and back. */

export interface Rule {
  is: "rule";
  id: number;
  field: string;
  op: string;
  text: string;
}
export interface Group {
  is: "group";
  id: number;
  mode: "all" | "any" | "none";
  items: Item[];
}
export interface Bracket {
  is: "bracket";
  id: number;
  list: string;
  /** some, no, or how many: then `op` and `number` say against what. */
  quantity: "some" | "no" | "count";
  op: string;
  number: string;
  inner: Group;
}
export interface InSet {
  is: "set";
  id: number;
  name: string;
}
/** What the builder has no form for, as it is written. */
export interface Written {
  is: "written";
  id: number;
  text: string;
}
export type Item = Rule | Group | Bracket | InSet | Written;

// biome-ignore lint/suspicious/noExplicitAny: the tree is plain data whose shape is told by `is`
type Node = any;

let last = 0;
const fresh = () => ++last;

export const emptyGroup = (mode: Group["mode"] = "all"): Group => ({
  is: "group",
  id: fresh(),
  mode,
  items: [],
});
export const newRule = (field: string): Rule => ({ is: "rule", id: fresh(), field, op: "=", text: "" });
export const newBracket = (list: string): Bracket => ({
  is: "bracket",
  id: fresh(),
  list,
  quantity: "some",
  op: ">=",
  number: "1",
  inner: emptyGroup(),
});
export const newSet = (name: string): InSet => ({ is: "set", id: fresh(), name });

const SAFE = /^[\p{L}\p{N}](?:(?!\.\.)[\p{L}\p{N}_.:/*%-])*$/u;
const RESERVED = new Set("and or not no some in none today now count field".split(" "));
const MOMENT = /^(today|now|\d{4}-\d\d-\d\d\S*)(\s*[+-]\s*\d+\s*(min|mo|h|d|w|y))*$/i;

/** A value as a filter writes it: in quotes only where it needs them. */
export function written(text: string): string {
  const value = text.trim();
  if (/^@[\w.-]+$/.test(value) || /^\/.+\/$/.test(value) || /^".*"$/.test(value) || MOMENT.test(value))
    return value;
  const range = value.match(/^(.+?)\s*\.\.\s*(.+)$/);
  if (range) return `${written(range[1] ?? "")} .. ${written(range[2] ?? "")}`;
  if (/^\d[\d.,]*\s+[a-zA-Z]+$/.test(value)) return value.replace(/\s+/, "");
  return SAFE.test(value) && !RESERVED.has(value.toLowerCase()) ? value : JSON.stringify(value);
}

export const fieldText = (name: string) =>
  name.startsWith("field:") ? `field(${JSON.stringify(name.slice(6))})` : name;

/** A piece of the text, and the item it says: where an error lies, its item is found by that. */
export interface Placed {
  id: number;
  from: number;
  to: number;
}

export function ruleText(rule: Rule): string {
  const field = fieldText(rule.field);
  if (rule.op === "none") return `${field} = none`;
  if (rule.op === "some") return `${field} != none`;
  if (rule.op === "in") {
    const listed = rule.text
      .split(",")
      .map((t) => t.trim())
      .filter(Boolean);
    if (listed.length === 1 && (listed[0]?.includes("..") || listed[0]?.startsWith("@")))
      return `${field} in ${written(listed[0])}`;
    return `${field} in (${listed.map(written).join(", ")})`;
  }
  return `${field} ${rule.op} ${written(rule.text)}`;
}

/** Whether an item says enough to be asked. */
export function isWhole(item: Item): boolean {
  switch (item.is) {
    case "rule":
      return item.field !== "" && (item.op === "none" || item.op === "some" || item.text.trim() !== "");
    case "group":
      return item.items.some(isWhole);
    case "bracket":
      return item.quantity !== "count" || /^\d+$/.test(item.number.trim());
    case "set":
      return item.name !== "";
    case "written":
      return item.text !== "";
  }
}

/** The filter's text, with where each item stands in it. What is not whole yet is left out. */
export function toText(item: Item, placed: Placed[] = [], at = 0, inside = false): string {
  let text = "";
  switch (item.is) {
    case "rule":
      text = ruleText(item);
      break;
    case "set":
      text = `in set ${JSON.stringify(item.name)}`;
      break;
    case "written":
      text = item.text;
      break;
    case "bracket": {
      const asks = item.inner.items.some(isWhole);
      // That there is some at all is said by counting: the language has no word for it alone.
      const counts = item.quantity === "count" || (item.quantity === "some" && !asks);
      const head = `${counts ? "count " : item.quantity === "no" ? "no " : ""}${item.list}`;
      text = asks ? `${head}[${toText(item.inner, placed, at + head.length + 1)}]` : head;
      if (item.quantity === "count") text += ` ${item.op} ${item.number.trim()}`;
      else if (counts) text += " > 0";
      break;
    }
    case "group": {
      const whole = item.items.filter(isWhole);
      const word = item.mode === "all" ? " and " : " or ";
      const none = item.mode === "none" ? "not " : "";
      const parens = (item.mode === "none" && whole.length > 0) || (inside && whole.length > 1);
      text = none + (parens ? "(" : "");
      whole.forEach((one, n) => {
        text += n > 0 ? word : "";
        text += toText(one, placed, at + text.length, true);
      });
      text += parens ? ")" : "";
      break;
    }
  }
  placed.push({ id: item.id, from: at, to: at + text.length });
  return text;
}

function valueText(value: Node): string {
  switch (value.is) {
    case "phrase":
      return `@${value.name}`;
    case "pattern":
      return `/${value.text}/`;
    case "moment":
      return (
        value.base + value.shifts.map((s: [string, number, string]) => ` ${s[0]} ${s[1]}${s[2]}`).join("")
      );
    case "between":
      return `${valueText(value.low)} .. ${valueText(value.high)}`;
    default:
      return value.text;
  }
}

/** The builder's model of a filter's tree; `text` writes the parts it has no form for. */
export function fromTree(tree: Node, text: (node: Node) => string): Group {
  const made = item(tree, text);
  return made.is === "group" && made.mode !== "none" ? made : { ...emptyGroup(), items: [made] };
}

function item(node: Node, text: (node: Node) => string): Item {
  const id = fresh();
  switch (node.is) {
    case "all":
    case "any":
      return { is: "group", id, mode: node.is, items: node.items.map((n: Node) => item(n, text)) };
    case "not": {
      const inner = item(node.item, text);
      const items = inner.is === "group" && inner.mode === "any" ? inner.items : [inner];
      return { is: "group", id, mode: "none", items };
    }
    case "compare":
      return { is: "rule", id, field: node.field, op: node.op, text: valueText(node.value) };
    case "within":
      return { is: "rule", id, field: node.field, op: "in", text: node.values.map(valueText).join(", ") };
    case "presence":
      return { is: "rule", id, field: node.field, op: node.present ? "some" : "none", text: "" };
    case "in_set":
      return { is: "set", id, name: node.name };
    case "has":
    case "counted": {
      const inner = node.inner ? fromTree(node.inner, text) : emptyGroup();
      const counted = node.is === "counted";
      return {
        is: "bracket",
        id,
        list: node.group,
        quantity: counted ? "count" : node.no ? "no" : "some",
        op: counted ? node.op : ">=",
        number: counted ? valueText(node.number) : "1",
        inner,
      };
    }
    default:
      return { is: "written", id, text: text(node) };
  }
}

/** The same model with one item exchanged, or taken out where `made` is null. */
export function exchanged(group: Group, id: number, made: Item | null): Group {
  const items = group.items.flatMap((one): Item[] => {
    if (one.id === id) return made ? [made] : [];
    if (one.is === "group") return [exchanged(one, id, made)];
    if (one.is === "bracket") {
      const inner = one.inner.id === id && made?.is === "group" ? made : exchanged(one.inner, id, made);
      return [{ ...one, inner }];
    }
    return [one];
  });
  return { ...group, items };
}
