import type { Schemas } from "../../api/client";
import { t } from "../../words";

export type State = Schemas["TakingLine"]["state"];

/** What a count says of a thing: its heading, and how it is marked. */
export const STATES: Record<State, { label: string; tag: string; what: string }> = {
  missing: { label: t("Still to find"), tag: "warn", what: t("expected and not met") },
  elsewhere: { label: t("Elsewhere"), tag: "warn", what: t("met at another place than expected") },
  "not expected": {
    label: t("Not expected"),
    tag: "note",
    what: t("met, and known, but not among those expected"),
  },
  unknown: { label: t("Unknown"), tag: "bad", what: t("a code or number of no device that is known") },
  found: { label: t("Found"), tag: "ok", what: t("met where expected") },
};

export const ORDER = Object.keys(STATES) as State[];

/** What is said of a state once its count is over: then nothing is still to be found. */
export function stateLabel(state: State, open: boolean): string {
  return state === "missing" && !open ? t("Missing") : STATES[state].label;
}
