/** Recurrence rules of iCalendar (RFC 5545, 3.3.10) as people choose them; what is out of the ordinary stays a rule. */

import { t } from "../words";
export const DAYS = ["MO", "TU", "WE", "TH", "FR", "SA", "SU"] as const;
export type Day = (typeof DAYS)[number];
export const DAY_WORDS: Record<Day, string> = {
  MO: t("Mon"),
  TU: t("Tue"),
  WE: t("Wed"),
  TH: t("Thu"),
  FR: t("Fri"),
  SA: t("Sat"),
  SU: t("Sun"),
};

export type Every = "" | "hours" | "day" | "days" | "month" | "rule";

export interface Chosen {
  every: Every;
  /** Each so many hours; the day of a month. */
  number: number;
  time: string;
  days: Day[];
}

export const USUAL: Chosen = { every: "day", number: 1, time: "07:00", days: ["MO"] };

const two = (n: number) => String(n).padStart(2, "0");

/** Return what a rule chooses; `every` is "rule" where it says more than can be chosen. */
export function chosen(rule: string): Chosen {
  if (!rule.trim()) return { ...USUAL, every: "" };
  const parts = new Map(
    rule
      .toUpperCase()
      .replace(/^RRULE:/, "")
      .split(";")
      .map((p) => p.split("=") as [string, string]),
  );
  const take = (name: string) => {
    const found = parts.get(name);
    parts.delete(name);
    return found;
  };
  const freq = take("FREQ");
  const interval = Number(take("INTERVAL") ?? 1);
  const hour = take("BYHOUR");
  const minute = take("BYMINUTE") ?? "0";
  const days = take("BYDAY");
  const monthDay = take("BYMONTHDAY");
  const second = take("BYSECOND") ?? "0";
  const other: Chosen = { ...USUAL, every: "rule" };
  if (parts.size > 0 || Number(second) !== 0 || !/^\d+$/.test(minute)) return other;
  if (freq === "HOURLY" && !hour && !days && !monthDay && minute === "0")
    return { ...USUAL, every: "hours", number: interval };
  if (interval !== 1 || !hour || !/^\d+$/.test(hour)) return other;
  const time = `${two(Number(hour))}:${two(Number(minute))}`;
  if (freq === "DAILY" && !days && !monthDay) return { ...USUAL, every: "day", time };
  const named = (days ?? "").split(",").filter((d): d is Day => (DAYS as readonly string[]).includes(d));
  if (freq === "WEEKLY" && days && named.length === days.split(",").length && !monthDay)
    return { ...USUAL, every: "days", time, days: named };
  if (freq === "MONTHLY" && !days && /^([1-9]|1\d|2[0-8])$/.test(monthDay ?? ""))
    return { ...USUAL, every: "month", time, number: Number(monthDay) };
  return other;
}

/** Return the rule of what is chosen; empty for none. */
export function ruleOf({ every, number, time, days }: Chosen): string {
  const [hour = "0", minute = "0"] = time.split(":");
  const at = `BYHOUR=${Number(hour)};BYMINUTE=${Number(minute)}`;
  if (every === "hours") return `FREQ=HOURLY;INTERVAL=${number};BYMINUTE=0`;
  if (every === "day") return `FREQ=DAILY;${at}`;
  if (every === "days") return `FREQ=WEEKLY;BYDAY=${DAYS.filter((d) => days.includes(d)).join(",")};${at}`;
  if (every === "month") return `FREQ=MONTHLY;BYMONTHDAY=${number};${at}`;
  return "";
}
