/** The little of the language a link has to write itself: a field, a value, a set, and questions joined. */

export const fieldText = (name: string) =>
  name.startsWith("field:") ? `field(${JSON.stringify(name.slice(6))})` : name;

/** A value as a filter writes it: in quotes only where it needs them. */
export function quoted(value: string): string {
  return /^[\p{L}\p{N}][\p{L}\p{N}_.:/-]*$/u.test(value) ? value : JSON.stringify(value);
}

export const inSet = (name: string) => `in set ${quoted(name)}`;

/** Questions that are all asked; what may hold an “or” stands in brackets. */
export function both(...filters: (string | undefined)[]): string {
  const asked = filters.filter((f): f is string => Boolean(f));
  if (asked.length === 1) return asked[0] ?? "";
  return asked.map((f) => (/\bor\b/i.test(f) ? `(${f})` : f)).join(" and ");
}
