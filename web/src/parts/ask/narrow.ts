/** Narrowing a filter by a condition, and widening it again, on the filter's text. */

/** Return the conditions a filter joins with “and” at its top. */
export function conjuncts(filter: string): string[] {
  const parts: string[] = [];
  let depth = 0;
  let quoted = false;
  let start = 0;
  for (let i = 0; i < filter.length; i++) {
    const c = filter[i];
    if (quoted) {
      if (c === "\\") i++;
      else if (c === '"') quoted = false;
    } else if (c === '"') quoted = true;
    else if (c === "(" || c === "[") depth++;
    else if (c === ")" || c === "]") depth--;
    else if (depth === 0) {
      const rest = filter.slice(i);
      const link = /^\s+and\s+/i.exec(rest);
      if (link) {
        parts.push(filter.slice(start, i).trim());
        i += link[0].length - 1;
        start = i + 1;
      } else if (/^\s+or\s+/i.test(rest)) {
        return [`(${filter.trim()})`];
      }
    }
  }
  parts.push(filter.slice(start).trim());
  return parts.filter(Boolean);
}

/** Two ways to write the same condition compare alike: quotes that are not needed, letter case, white space. */
function canon(condition: string): string {
  return condition
    .replace(/"([^"\\\s()[\],]+)"/g, "$1")
    .replace(/\s+/g, " ")
    .toLowerCase();
}

export function holds(filter: string, condition: string): boolean {
  const held = conjuncts(filter).map(canon);
  return conjuncts(condition).every((p) => held.includes(canon(p)));
}

export function narrow(filter: string, condition: string): string {
  if (holds(filter, condition)) return filter;
  return [...conjuncts(filter), ...conjuncts(condition)].join(" and ");
}

export function widen(filter: string, condition: string): string {
  const gone = conjuncts(condition).map(canon);
  return conjuncts(filter)
    .filter((p) => !gone.includes(canon(p)))
    .join(" and ");
}

export function exclude(filter: string, condition: string): string {
  return narrow(filter, `not (${condition})`);
}

export function quoted(value: string): string {
  if (/^[\p{L}\p{N}][\p{L}\p{N}_.:/-]*$/u.test(value)) return value;
  return `"${value.replace(/\\/g, "\\\\").replace(/"/g, '\\"')}"`;
}
