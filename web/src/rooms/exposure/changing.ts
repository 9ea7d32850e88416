import type { Schemas } from "../../api/client";
import { capital } from "../../parts/format";
import { t, word } from "../../words";

export type Change = Schemas["ProposedChange"];

/** What a change does, as its sentence begins. */
export const verbOf = (change: Change) =>
  change.verb === "take measures" ? t("Take the maker’s measures against") : capital(word(change.verb));

/** What an update leads to, where that is one release for all systems. */
export const toOf = (change: Change) =>
  change.verb === "update"
    ? change.target || change.targets.map((target) => `${target.target} (${target.under})`).join(", ")
    : "";

export const sentenceOf = (change: Change) =>
  `${verbOf(change)} ${change.product}${toOf(change) ? t(" to {{change}}", { change: toOf(change) }) : ""}`;

/** Under which systems, with the release of each where they differ. */
export const underOf = (change: Change) =>
  change.targets
    .map((target) => (change.target ? target.under : `${target.under}: ${target.target}`))
    .filter(Boolean)
    .join(", ");

export const endedBy = (change: Change) => Object.values(change.ends).reduce((a, b) => a + b, 0);

export const share = (part: number, whole: number) => (whole ? Math.round((100 * part) / whole) : 0);
