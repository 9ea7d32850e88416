import type { Schemas } from "../../api/client";
import { plural } from "../../parts/format";
import { t } from "../../words";

/** How soon a service is promised to be back, in words. */
export function within(minutes: number | null): string {
  return minutes === null
    ? t("nothing promised")
    : t("back within {{minutes}}", { minutes: lasting(minutes) });
}

/** So many minutes, in words. */
export function lasting(minutes: number): string {
  if (minutes % 1440 === 0) return plural(minutes / 1440, "day");
  if (minutes % 60 === 0) return plural(minutes / 60, "hour");
  if (minutes < 60) return plural(minutes, "minute");
  return `${plural(Math.floor(minutes / 60), "hour")} ${plural(minutes % 60, "minute")}`;
}

/** What a part needs of its members, in words. */
export function needed(part: Pick<Schemas["ServicePartOut"], "needs">, have: number): string {
  if (part.needs === 0) return have === 1 ? t("needs it") : t("needs all {{have}}", { have });
  return t("needs {{needs}} of {{have}}", { needs: part.needs, have });
}
