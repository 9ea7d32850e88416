import ts from "typescript";
import { expect, test } from "vitest";
import de from "./de.json";
import en from "./en.json";

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
  const german = de as Record<string, string>;
  const english = en as Record<string, string>;
  for (const [text, counted] of wanted) {
    if (counted) {
      for (const form of ["one", "other"]) {
        expect(german, text).toHaveProperty([`${text}_${form}`]);
        expect(english, text).toHaveProperty([`${text}_${form}`]);
      }
    } else expect(german, text).toHaveProperty([text]);
  }
  // Kinds and the like come from the server as words, and are looked up as they come.
  const known = Object.keys(german).filter((key) => !/^[a-z' /-]+$/.test(key));
  expect(known.filter((key) => !wanted.has(key.replace(PLURAL, "")))).toEqual([]);
});

test("what is filled in stands in each language", () => {
  for (const [key, text] of Object.entries(de as Record<string, string>)) {
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
