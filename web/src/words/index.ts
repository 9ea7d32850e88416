import i18next from "i18next";
import en from "./en.json";

/** The languages there are, each by its own name. */
export const LANGUAGES = { en: "English", de: "Deutsch" } as const;
export type Language = keyof typeof LANGUAGES;
const KEPT = "language";

/** The language of whoever looks: as they chose, else as their browser asks for. */
export function language(): Language {
  const wanted =
    localStorage.getItem(KEPT) ?? navigator.languages?.find((l) => l.slice(0, 2) in LANGUAGES) ?? "en";
  return wanted.slice(0, 2) === "de" ? "de" : "en";
}

/** How numbers and days are written for whoever looks (BCP 47). */
export const LOCALE = language() === "de" ? "de-DE" : "en-GB";

/** Choose a language; all is drawn anew in it. */
export function speak(next: Language) {
  localStorage.setItem(KEPT, next);
  window.location.reload();
}

void i18next.init({
  lng: language(),
  fallbackLng: "en",
  resources: { en: { translation: en } },
  // A text is its own key: what stands in the page is found by what is read there.
  keySeparator: false,
  nsSeparator: false,
  returnEmptyString: false,
  interpolation: { escapeValue: false },
  initAsync: false,
});

/** German, a file for each room and one for what stands on every page. */
const GERMAN = import.meta.glob<Record<string, string>>("./de/*.json", { import: "default" });
const fetched = new Map<string, Promise<void>>();

async function fetchPart(part: string): Promise<void> {
  const words = GERMAN[`./de/${part}.json`];
  if (words) i18next.addResourceBundle("de", "translation", await words(), true);
}

/** Fetch the words of a part of the pages, once; English comes with the rest. */
function wordsOf(part: string): Promise<void> {
  if (language() === "en") return Promise.resolve();
  let words = fetched.get(part);
  if (!words) {
    words = fetchPart(part);
    fetched.set(part, words);
    // What did not come is asked for again by whoever opens the room next.
    words.catch(() => fetched.delete(part));
  }
  return words;
}

/** Fetch the words that stand on every page, before anything is drawn. */
export function wordsAreHere(): Promise<void> {
  document.documentElement.lang = LOCALE;
  return wordsOf("everywhere");
}

/** A room's page with the words it is written in: they come first, for lists and menus are made when their module is read. */
export const withWords =
  <Page>(room: string, page: () => Promise<Page>): (() => Promise<Page>) =>
  () =>
    wordsOf(room).then(page);

type Values = Record<string, string | number | boolean | null | undefined>;

/** A text in the language of whoever looks; a value nobody knows is left out. German has each; a test holds it to that. */
export const t = (text: string, values: Values = {}): string => i18next.t(text, values);

/** A word the server speaks of things with (a state, a kind, a grade), as people read it; one that is nobody's word but a name stays as it is. */
export const word = (said: string): string => i18next.t(said);

/** A moment as how long ago it was, in words. */
export function agoIn(iso: string, now: number = Date.now()): string {
  const seconds = Math.round((new Date(iso).getTime() - now) / 1000);
  const words = new Intl.RelativeTimeFormat(language(), { numeric: "auto", style: "short" });
  for (const [unit, size] of [
    ["day", 86_400],
    ["hour", 3_600],
    ["minute", 60],
  ] as const)
    if (Math.abs(seconds) >= size) return words.format(Math.trunc(seconds / size), unit);
  return words.format(0, "second");
}
