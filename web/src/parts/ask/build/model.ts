/** What the builder works on: a filter as groups, conditions and brackets. The server reads and writes it. */

import type { Schemas } from "../../../api/client";

export type Rule = Schemas["DraftRule"];
export type Group = Schemas["DraftGroup"];
export type Bracket = Schemas["DraftBracket"];
export type Item = Group["items"][number];

let last = 0;
/** Items the server numbers begin at 1, those begun here go down from 0: no two are ever the same. */
const fresh = () => --last;

export const emptyGroup = (mode: Group["mode"] = "all"): Group => ({
  type: "group",
  id: fresh(),
  mode,
  items: [],
});
export const newRule = (field: string): Rule => ({ type: "rule", id: fresh(), field, op: "=", text: "" });
export const newBracket = (list: string): Bracket => ({
  type: "bracket",
  id: fresh(),
  list,
  quantity: "some",
  op: ">=",
  number: "1",
  inner: emptyGroup(),
});
export const newSet = (name: string): Item => ({ type: "set", id: fresh(), name });

/** The same model with one item exchanged, or taken out where `made` is null. */
export function exchanged(group: Group, id: number, made: Item | null): Group {
  const items = group.items.flatMap((one): Item[] => {
    if (one.id === id) return made ? [made] : [];
    if (one.type === "group") return [exchanged(one, id, made)];
    if (one.type === "bracket") {
      const inner = one.inner.id === id && made?.type === "group" ? made : exchanged(one.inner, id, made);
      return [{ ...one, inner }];
    }
    return [one];
  });
  return { ...group, items };
}
