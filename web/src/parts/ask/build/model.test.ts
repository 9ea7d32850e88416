import { describe, expect, test } from "vitest";
import { emptyGroup, exchanged, fromTree, newBracket, newRule, type Placed, toText, written } from "./model";

const plain = (text: string) => ({ is: "plain", text, quoted: false });
const compare = (field: string, op: string, value: object) => ({ is: "compare", field, op, value });

describe("values are written as the language reads them", () => {
  test.each([
    ["Saltholm", "Saltholm"],
    ["Port Averne", '"Port Averne"'],
    ["none", '"none"'],
    ["@office_suites", "@office_suites"],
    ["/^(a|b)/", "/^(a|b)/"],
    ["now - 30d", "now - 30d"],
    ["16 GB", "16GB"],
    ["4GB .. 8GB", "4GB .. 8GB"],
    ["10.60.4.0/24", "10.60.4.0/24"],
    ['say "so"', '"say \\"so\\""'],
  ])("%s", (typed, text) => expect(written(typed)).toBe(text));
});

describe("tree to builder to text", () => {
  const show = (tree: object) => toText(fromTree(tree, () => "tansy"));
  test.each([
    [{ is: "all", items: [] }, ""],
    [compare("kind", "=", plain("server")), "kind = server"],
    [
      {
        is: "all",
        items: [
          compare("kind", "=", plain("server")),
          {
            is: "any",
            items: [
              compare("memory", "<", plain("16GB")),
              { is: "not", item: compare("place", "=", plain("Port Averne")) },
            ],
          },
        ],
      },
      'kind = server and (memory < 16GB or not (place = "Port Averne"))',
    ],
    [
      {
        is: "has",
        group: "software",
        no: true,
        inner: { is: "within", field: "name", values: [{ is: "phrase", name: "office_suites" }] },
      },
      "no software[name in @office_suites]",
    ],
    [
      {
        is: "counted",
        group: "interfaces",
        op: "=",
        number: plain("2"),
        inner: compare("speed", ">=", plain("1Gb")),
      },
      "count interfaces[speed >= 1Gb] = 2",
    ],
    [
      compare("last_seen", "<", { is: "moment", base: "now", shifts: [["-", 30, "d"]] }),
      "last_seen < now - 30d",
    ],
    [{ is: "presence", field: "field:Berth side", present: false }, 'field("Berth side") = none'],
    [{ is: "in_set", name: "Bridge systems" }, 'in set "Bridge systems"'],
    [{ is: "words", words: ["tansy"] }, "tansy"],
    [
      {
        is: "not",
        item: { is: "any", items: [compare("a", "=", plain("1")), compare("b", "=", plain("2"))] },
      },
      "not (a = 1 or b = 2)",
    ],
  ])("%#", (tree, text) => expect(show(tree)).toBe(text));
});

test("where an error lies its item is found", () => {
  const rule = { ...newRule("memory"), op: "<", text: "lots" };
  const bracket = newBracket("software");
  bracket.inner.items = [{ ...newRule("version"), text: "x" }];
  const group = { ...emptyGroup(), items: [rule, bracket] };
  const placed: Placed[] = [];
  const text = toText(group, placed);
  expect(text).toBe("memory < lots and software[version = x]");
  for (const [id, said] of [
    [rule.id, "memory < lots"],
    [bracket.inner.items[0]?.id, "version = x"],
  ] as const) {
    const at = placed.find((p) => p.id === id);
    expect(text.slice(at?.from, at?.to)).toBe(said);
  }
});

test("what is not whole is not asked, and an item is exchanged wherever it lies", () => {
  const bracket = newBracket("disks");
  const inside = newRule("size");
  bracket.inner.items = [inside];
  const group = { ...emptyGroup(), items: [bracket, newRule("")] };
  expect(toText(group)).toBe("count disks > 0");
  const filled = exchanged(group, inside.id, { ...inside, op: ">", text: "1 TB" });
  expect(toText(filled)).toBe("disks[size > 1TB]");
  expect(toText(exchanged(filled, inside.id, null))).toBe("count disks > 0");
});
