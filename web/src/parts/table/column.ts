import type { ReactNode } from "react";
import { LOCALE } from "../../words";

export type Value = string | number | boolean | null | undefined;

/** A column of a list: said once, for the screen, for sorting, for what is copied and for files. */
export interface Column<T> {
  /** Names it where its place and width are kept; one a list. */
  key: string;
  label: string;
  /**
   * What it says of a row, bare: by this a list is sorted, copied and written to a file. Days are
   * "2026-03-01", moments in ISO 8601, sums of money plain decimals. A column without it holds what can be
   * done with a row: it stands last, and is neither sorted nor copied.
   */
  of?: (row: T) => Value;
  /** What is drawn; what `of` says where it is left out. */
  cell?: (row: T) => ReactNode;
  /** Numbers and sums stand at the right. */
  num?: boolean;
  /** Text of machines: numbers, addresses, versions. */
  mono?: boolean;
  className?: string;
  /** Shown only once it is chosen. */
  spare?: boolean;
  /** What it means, where its label does not say it all. */
  meaning?: string;
}

/** What a column says of a row, as text. */
export function said<T>(column: Column<T>, row: T): string {
  const value = column.of?.(row);
  if (value === true) return "yes";
  return value === null || value === undefined || value === false ? "" : String(value);
}

const words = new Intl.Collator(LOCALE, { numeric: true, sensitivity: "base" });
const DECIMAL = /^-?\d+(\.\d+)?$/;

/** Which of two values comes first; sums as decimals by size, text with numbers in it by those. */
export function order(a: Value, b: Value): number {
  const [x, y] = [comparable(a), comparable(b)];
  if (typeof x === "number" && typeof y === "number") return x - y;
  return words.compare(String(x), String(y));
}

function comparable(value: Value): string | number {
  if (typeof value === "boolean") return Number(value);
  if (typeof value === "string" && DECIMAL.test(value)) return Number(value);
  return value ?? "";
}
