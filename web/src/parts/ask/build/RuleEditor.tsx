import { useQuery } from "@tanstack/react-query";
import { useId } from "react";
import { asks } from "../../../api/asking";
import type { FieldInfo } from "../../../api/types";
import { t } from "../../../words";
import { fieldText } from "../written";
import type { Rule } from "./model";

const OPS: Record<string, [Rule["op"], string][]> = {
  text: [["=", "is"], ["!=", t("is not")], ["~", "contains"], ["!~", t("does not contain")], ["in", t("is one of")]],
  choice: [["=", "is"], ["!=", t("is not")], ["in", t("is one of")]],
  "yes/no": [["=", "is"]],
  address: [["in", "within"], ["=", "is"], ["~", "contains"]],
  version: [["<", "before"], ["<=", t("up to")], ["=", "is"], [">=", "from"], [">", "after"], ["~", "contains"]],
  moment: [["<", "before"], [">", "after"], ["in", "within"]],
}; // biome-ignore format: a line a type
const NUMBERS: [Rule["op"], string][] = [["<", "under"], ["<=", t("at most")], ["=", "is"], [">=", t("at least")], [">", "over"], ["in", "within"]]; // biome-ignore format: one list
const PRESENCE: [Rule["op"], string][] = [["some", t("is known")], ["none", t("is not known")]]; // biome-ignore format: one list
const HINTS: Record<string, string> = {
  moment: t("now - 30d, 2026-08-03"),
  memory: "16GB",
  bytes: "500GB",
  bits: "1Gb",
  address: "10.60.4.0/24",
  percent: "90",
  "yes/no": t("yes or no"),
};

interface Props {
  rule: Rule;
  fields: FieldInfo[];
  change: (made: Rule) => void;
  remove: React.ReactNode;
}

/** One condition: a field, how it is compared, and with what. */
export function RuleEditor({ rule, fields, change, remove }: Props) {
  const list = useId();
  const field = fields.find((f) => f.name === rule.field);
  const ops = [...(OPS[field?.type ?? "text"] ?? NUMBERS), ...PRESENCE];
  const wantsWord = field?.type === "text" && rule.op !== "none" && rule.op !== "some";
  const head = `${fieldText(rule.field)} = `;
  const begun = rule.text.split(",").at(-1)?.trim() ?? "";
  const offers = useQuery({
    ...asks("/api/filter/complete", { params: { query: { text: head + begun } } }),
    enabled: wantsWord && !rule.field.includes("field:"),
    staleTime: 60_000,
  });
  const words = field?.choices.length
    ? field.choices
    : field?.type === "yes/no"
      ? ["yes", "no"]
      : (offers.data ?? [])
          .filter((o) => o.kind === "value" && o.text !== "none")
          .map((o) => o.text.replaceAll('"', ""));
  return (
    <div className="flex flex-wrap items-center gap-1.5">
      <select
        className="select select-xs w-44"
        aria-label={t("Field")}
        value={rule.field}
        onChange={(e) => {
          const next = fields.find((f) => f.name === e.target.value);
          const first = (OPS[next?.type ?? "text"] ?? NUMBERS)[0]?.[0] ?? "=";
          change({ ...rule, field: e.target.value, op: first, text: "" });
        }}
      >
        {!field && <option value={rule.field}>{rule.field}</option>}
        {fields.map((f) => (
          <option key={f.name} value={f.name} title={f.meaning}>
            {f.label}
          </option>
        ))}
      </select>
      <select
        className="select select-xs w-32"
        aria-label={t("Comparison")}
        value={rule.op}
        onChange={(e) => change({ ...rule, op: e.target.value as Rule["op"] })}
      >
        {!ops.some(([op]) => op === rule.op) && <option value={rule.op}>{rule.op}</option>}
        {ops.map(([op, said]) => (
          <option key={op} value={op}>
            {said}
          </option>
        ))}
      </select>
      {rule.op !== "some" && rule.op !== "none" && (
        <>
          <input
            className="input input-xs mono min-w-52 max-w-md flex-1"
            aria-label={t("Value")}
            list={list}
            placeholder={rule.op === "in" ? t("one, another") : (HINTS[field?.type ?? ""] ?? "")}
            value={rule.text}
            onChange={(e) => change({ ...rule, text: e.target.value })}
          />
          <datalist id={list}>
            {words.map((w) => (
              <option key={w} value={w} />
            ))}
          </datalist>
        </>
      )}
      {remove}
    </div>
  );
}
