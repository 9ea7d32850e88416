/** Numbers, dates and durations as people read them. */

import { LOCALE, t, word } from "../words";
import { companyDay, formatted } from "./days";

const GIB = 2 ** 30;

export function memory(bytes: number): string {
  const gib = bytes / GIB;
  return `${gib >= 10 ? Math.round(gib) : Math.round(gib * 10) / 10} GB`;
}

export function bytes(value: number): string {
  const units = ["B", "kB", "MB", "GB", "TB"];
  let unit = 0;
  let rest = value;
  while (rest >= 1000 && unit < units.length - 1) {
    rest /= 1000;
    unit += 1;
  }
  return `${rest >= 10 || unit === 0 ? Math.round(rest) : rest.toFixed(1)} ${units[unit]}`;
}

export function bits(value: number): string {
  if (value >= 1e9) return `${value / 1e9} Gb/s`;
  return `${Math.round(value / 1e6)} Mb/s`;
}

const TIME = { day: "numeric", month: "short", hour: "2-digit", minute: "2-digit" } as const;

/** A moment told in seconds since 1970, as the functions here take it. */
export const iso = (seconds: number) => new Date(seconds * 1000).toISOString();

/** The day it is, as a date field has it. */
export const today = () => companyDay();

export function day(iso: string): string {
  return formatted({ day: "numeric", month: "long", year: "numeric" }, iso);
}

export function shortDay(iso: string): string {
  const text = formatted({ day: "numeric", month: "short" }, iso);
  const year = formatted({ year: "numeric" }, iso);
  return year === companyDay().slice(0, 4) ? text : `${text} ${year}`;
}

export function moment(iso: string): string {
  return formatted(TIME, iso);
}

/** How long ago, in the largest fitting unit: 40 min, 3 h, 9 d. */
export function ago(iso: string, now: number = Date.now()): string {
  const seconds = Math.max(0, (now - new Date(iso).getTime()) / 1000);
  if (seconds < 90) return t("just now");
  if (seconds < 5400) return `${Math.round(seconds / 60)} min`;
  if (seconds < 129_600) return `${Math.round(seconds / 3600)} h`;
  if (seconds < 86_400 * 90) return `${Math.round(seconds / 86_400)} d`;
  return `${Math.round(seconds / (86_400 * 30.4))} ${t("months")}`;
}

/** The same in a sentence: “3 h ago”, “just now”. */
export function agoWords(iso: string, now: number = Date.now()): string {
  const text = ago(iso, now);
  return text === t("just now") ? text : t("{{time}} ago", { time: text });
}

export function duration(seconds: number): string {
  if (seconds < 60) return `${seconds} s`;
  const minutes = Math.floor(seconds / 60);
  if (minutes < 60) return `${minutes} min ${seconds % 60} s`;
  return `${Math.floor(minutes / 60)} h ${minutes % 60} min`;
}

export function count(value: number): string {
  return value.toLocaleString(LOCALE);
}

export function plural(n: number, one: string, many = `${one}s`): string {
  return `${count(n)} ${t(n === 1 ? one : many)}`;
}

export function capital(text: string): string {
  return text ? text.charAt(0).toUpperCase() + text.slice(1) : text;
}

/** A field's value as it stands in a table. */
export function shown(type: string, name: string, value: string | number | null | undefined): string {
  if (value === null || value === undefined || value === "") return "";
  if (type === "memory" && typeof value === "number") return memory(value);
  if (type === "moment") return name === "last_seen" ? ago(String(value)) : shortDay(String(value));
  if (type === "choice") return capital(word(String(value)));
  if (typeof value === "number") return count(value);
  return value;
}

/** An amount of money as people read it; by its digits, so that nothing is lost: 1,440 or 92.50. */
export function amount(text: string): string {
  const [whole = "0", part = ""] = text.replace("-", "").split(".");
  const [point, between] = LOCALE === "de-DE" ? [",", "."] : [".", ","];
  const grouped = whole.replace(/\B(?=(\d{3})+$)/g, between);
  return `${text.startsWith("-") ? "−" : ""}${grouped}${/[1-9]/.test(part) ? `${point}${part}` : ""}`;
}

/** An amount in a currency's minor units, as people read it: 125005 EUR is 1,250.05 EUR. */
export function minorAmount(minor: number, currency: string): string {
  return `${amount(minorText(minor, currency))} ${currency}`;
}

/** The same as it is typed: 125005 EUR is 1250.05. */
export function minorText(minor: number, currency: string): string {
  const format = new Intl.NumberFormat("en-GB", { style: "currency", currency });
  const places = format.resolvedOptions().maximumFractionDigits ?? 2;
  const digits = String(Math.abs(minor)).padStart(places + 1, "0");
  const text = places ? `${digits.slice(0, -places)}.${digits.slice(-places)}` : digits;
  return `${minor < 0 ? "-" : ""}${text}`;
}

/** Types of columns that stand to the right. */
export const NUMBERS = new Set(["number", "code", "memory", "bytes", "bits", "percent"]);
const WHEN = { day: "numeric", month: "short", year: "numeric", hour: "2-digit", minute: "2-digit" } as const;
const DAY = { day: "numeric", month: "short", year: "numeric" } as const;

/** A value of a report's line, as its column's type has it. */
export function lineText(value: unknown, type: string): string {
  if (value === null || value === undefined || value === "") return "";
  if (type === "moment") return formatted(WHEN, String(value));
  if (type === "day") return formatted(DAY, String(value).slice(0, 10));
  if (typeof value === "boolean") return value ? t("yes") : t("no");
  // A port or a VLAN is a name made of digits.
  if (typeof value === "number") return type === "code" ? String(value) : count(value);
  return String(value);
}
