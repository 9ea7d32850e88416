/** Days and moments as the company counts them, whatever zone the browser is in. */

import { LOCALE } from "../words";

const DAY = 86_400_000;
let zone = "UTC";
const made = new Map<string, Intl.DateTimeFormat>();

/** Say in which zone (IANA) the company's days begin; it is told with who is signed in. */
export function inZone(told: string): void {
  zone = told;
  made.clear();
}

function formatter(
  options: Intl.DateTimeFormatOptions,
  timeZone: string,
  locale: string = LOCALE,
): Intl.DateTimeFormat {
  const key = JSON.stringify([locale, options, timeZone]);
  const found = made.get(key) ?? new Intl.DateTimeFormat(locale, { ...options, timeZone });
  made.set(key, found);
  return found;
}

/** A day (2026-08-03) as that day, a moment as the company's clock has it. */
export function formatted(options: Intl.DateTimeFormatOptions, iso: string): string {
  const isDay = iso.length === 10;
  return formatter(options, isDay ? "UTC" : zone).format(new Date(isDay ? `${iso}T00:00:00Z` : iso));
}

/** The company's day of a moment (milliseconds since 1970), as a date field has it; of now where none is given. */
export function companyDay(time: number = Date.now()): string {
  return formatter({ year: "numeric", month: "2-digit", day: "2-digit" }, zone, "en-CA").format(
    new Date(time),
  );
}

/** A day so many days before or after another. */
export function daysFrom(day: string, days: number): string {
  return new Date(Date.parse(`${day}T00:00:00Z`) + days * DAY).toISOString().slice(0, 10);
}

/** The moment (milliseconds since 1970) the dial shows: the end of its day, or now. */
export function shownMoment(at: string | undefined): number {
  if (!at) return Date.now();
  if (at.length > 10) return Date.parse(at);
  const asUtc = Date.parse(`${at}T23:59:59Z`);
  const clock = formatter(
    {
      year: "numeric",
      month: "2-digit",
      day: "2-digit",
      hour: "2-digit",
      minute: "2-digit",
      second: "2-digit",
      hourCycle: "h23",
    },
    zone,
    "en-CA",
  ).formatToParts(new Date(asUtc));
  const part = (type: string) => Number(clock.find((p) => p.type === type)?.value ?? 0);
  const wall = Date.UTC(
    part("year"),
    part("month") - 1,
    part("day"),
    part("hour"),
    part("minute"),
    part("second"),
  );
  return asUtc - (wall - asUtc);
}
