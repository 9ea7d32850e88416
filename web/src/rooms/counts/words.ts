import type { Schemas } from "../../api/client";

export type State = Schemas["TakingLine"]["state"];

/** What a count says of a thing: its heading, and how it is marked. */
export const STATES: Record<State, { label: string; tag: string; what: string }> = {
  missing: { label: "Still to find", tag: "warn", what: "expected and not met" },
  elsewhere: { label: "Elsewhere", tag: "warn", what: "met at another place than expected" },
  "not expected": {
    label: "Not expected",
    tag: "note",
    what: "met, and known, but not among those expected",
  },
  unknown: { label: "Unknown", tag: "bad", what: "a code or number of no device that is known" },
  found: { label: "Found", tag: "ok", what: "met where expected" },
};

export const ORDER = Object.keys(STATES) as State[];

/** What is said of a state once its count is over: then nothing is still to be found. */
export function stateLabel(state: State, open: boolean): string {
  return state === "missing" && !open ? "Missing" : STATES[state].label;
}
