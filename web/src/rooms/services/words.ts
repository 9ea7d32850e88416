import type { Schemas } from "../../api/client";
import { plural } from "../../parts/format";

/** How soon a service is promised to be back, in words. */
export function within(minutes: number | null): string {
  if (minutes === null) return "nothing promised";
  if (minutes % 1440 === 0) return `back within ${plural(minutes / 1440, "day")}`;
  if (minutes % 60 === 0) return `back within ${plural(minutes / 60, "hour")}`;
  return `back within ${plural(minutes, "minute")}`;
}

/** What a part needs of its members, in words. */
export function needed(part: Pick<Schemas["ServicePartOut"], "needs">, have: number): string {
  if (part.needs === 0) return have === 1 ? "needs it" : `needs all ${have}`;
  return `needs ${part.needs} of ${have}`;
}
