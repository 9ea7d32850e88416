import ts from "typescript";
import { expect, test } from "vitest";
import en from "./en.json";

/** German by part: a room's words, and those that stand on every page. */
const GERMAN = Object.fromEntries(
  Object.entries(
    import.meta.glob<Record<string, string>>("./de/*.json", { import: "default", eager: true }),
  ).map(([path, words]) => [path.replace(/^.*\/|\.json$/g, ""), words]),
);
const de = Object.assign({}, ...Object.values(GERMAN)) as Record<string, string>;

const SOURCES = import.meta.glob("../**/*.{ts,tsx}", {
  query: "?raw",
  import: "default",
  eager: true,
}) as Record<string, string>;
const SAID = new Set([
  "label",
  "placeholder",
  "title",
  "aria-label",
  "hint",
  "what",
  "save",
  "alt",
  "refused",
  "named",
]);
/** What is called the same in every language, or is written in the language of filters. */
const NAMES = new Set(["tarn", "name = salt-db-01", "place = Saltholm and kind = switch"]);
/** Figures, and questions as they are typed: the language of filters is one. */
const FILTER = /^[\d./-]+$|[=^]| in \(|\[/;
const PLURAL = /_(one|other)$/;

function parsed(path: string): ts.SourceFile {
  return ts.createSourceFile(path, SOURCES[path] ?? "", ts.ScriptTarget.Latest, true, ts.ScriptKind.TSX);
}

function each(node: ts.Node, see: (node: ts.Node) => void) {
  see(node);
  node.forEachChild((child) => each(child, see));
}

/** The texts a file asks for by t("…") or plural(n, "…"), and whether each depends on a number. */
function asked(path: string): Map<string, boolean> {
  const out = new Map<string, boolean>();
  each(parsed(path), (node) => {
    if (!ts.isCallExpression(node)) return;
    if (node.expression.getText() === "plural") {
      const [, one, many] = node.arguments;
      if (one && ts.isStringLiteralLike(one)) {
        out.set(one.text, false);
        out.set(many && ts.isStringLiteralLike(many) ? many.text : `${one.text}s`, false);
      }
    }
    if (node.expression.getText() !== "t") return;
    const [text, values] = node.arguments;
    const counted =
      values && ts.isObjectLiteralExpression(values)
        ? values.properties.some((given) => given.name?.getText() === "count")
        : false;
    if (text && ts.isStringLiteralLike(text)) out.set(text.text, counted);
  });
  return out;
}

const files = Object.keys(SOURCES).filter((p) => !/\.test\.|schema\.d/.test(p));
const wanted = new Map(files.flatMap((path) => [...asked(path)]));

test("each text has its German, those that depend on a number both ways, and none is left over", () => {
  const english = en as Record<string, string>;
  for (const [text, counted] of wanted) {
    if (counted) {
      for (const form of ["one", "other"]) {
        expect(de, text).toHaveProperty([`${text}_${form}`]);
        expect(english, text).toHaveProperty([`${text}_${form}`]);
      }
    } else expect(de, text).toHaveProperty([text]);
  }
  // Kinds and the like come from the server as words, and are looked up as they come.
  const known = Object.keys(de).filter((key) => !/^[a-z' /-]+$/.test(key));
  expect(known.filter((key) => !wanted.has(key.replace(PLURAL, "")))).toEqual([]);
});

/** The rooms that ask for a text; what is no room's stands on every page. */
function askedBy(): Map<string, Set<string>> {
  const rooms = new Map<string, Set<string>>();
  for (const path of files) {
    const room = path.match(/\/rooms\/(\w+)\//)?.[1] ?? "everywhere";
    for (const text of asked(path).keys()) rooms.set(text, (rooms.get(text) ?? new Set()).add(room));
  }
  return rooms;
}

test("a text that one room alone says is fetched with that room, and the others with the first page", () => {
  const rooms = askedBy();
  const misplaced: string[] = [];
  for (const [part, words] of Object.entries(GERMAN))
    for (const key of Object.keys(words)) {
      const [only, ...more] = rooms.get(key) ?? rooms.get(key.replace(PLURAL, "")) ?? [];
      // Words of the server are shown wherever it speaks.
      const servers = /^[a-z' /-]+$/.test(key);
      // One signs in before any room is open.
      const own = servers || !only || more.length > 0 || only === "signin" ? "everywhere" : only;
      if (part !== own) misplaced.push(`${key}: is in ${part}, belongs in ${own}`);
    }
  expect(misplaced).toEqual([]);
});

test("each room is opened with its words", () => {
  const without: string[] = [];
  for (const path of ["../router.tsx", "../files.ts", "../lenses.ts"])
    each(parsed(path), (node) => {
      if (!ts.isCallExpression(node) || node.expression.kind !== ts.SyntaxKind.ImportKeyword) return;
      const room = node.arguments[0]?.getText().match(/rooms\/(\w+)\//)?.[1];
      let opened: ts.Node = node;
      while (opened.parent && !(ts.isCallExpression(opened) && opened.expression.getText() === "withWords"))
        opened = opened.parent;
      if (!ts.isCallExpression(opened) || opened.arguments[0]?.getText() !== `"${room}"`)
        without.push(`${path}: ${node.getText()}`);
    });
  expect(without).toEqual([]);
});

test("what is filled in stands in each language", () => {
  for (const [key, text] of Object.entries(de)) {
    const slots = (said: string) => [...said.matchAll(/\{\{(\w+)\}\}/g)].map((m) => m[1]).sort();
    expect(slots(text), key).toEqual(slots(key));
  }
});

test("no word stands in a page by itself", () => {
  const left: string[] = [];
  for (const path of files.filter((p) => p.endsWith(".tsx")))
    each(parsed(path), (node) => {
      if (ts.isJsxText(node) && /\p{L}{2}/u.test(node.text) && !NAMES.has(node.text.trim()))
        left.push(`${path}: ${node.text.trim()}`);
      if (ts.isJsxAttribute(node) && SAID.has(node.name.getText()) && node.initializer)
        if (ts.isStringLiteral(node.initializer) && !FILTER.test(node.initializer.text))
          left.push(`${path}: ${node.initializer.text}`);
    });
  expect(left).toEqual([]);
});
