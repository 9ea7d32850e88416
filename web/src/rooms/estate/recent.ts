/** What was asked lately, on this computer; the latest first. */
const KEY = "estate.asked";
const MOST = 12;

export function recent(): string[] {
  try {
    const held: unknown = JSON.parse(localStorage.getItem(KEY) ?? "[]");
    return Array.isArray(held) ? held.filter((word) => typeof word === "string") : [];
  } catch {
    return []; // what another page wrote there is no list of questions
  }
}

export function remember(filter: string): void {
  const text = filter.trim();
  if (text === "") return;
  localStorage.setItem(
    KEY,
    JSON.stringify([text, ...recent().filter((word) => word !== text)].slice(0, MOST)),
  );
}
