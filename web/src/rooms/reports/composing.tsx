import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { asks } from "../../api/asking";
import type { Schemas } from "../../api/client";
import { t } from "../../words";

export interface Column {
  field: string;
  formula: string;
  label: string;
}
export interface Total {
  column: string;
  function: "count" | "sum" | "min" | "max" | "mean" | "distinct";
}
export interface Definition {
  row: string;
  columns: Column[];
  filter: string;
  inner: string;
  group_by: string[];
  totals: Total[];
  sort: string;
  days: number;
  plot: "" | "bars";
  details: Detail[];
}
/** What is listed under each row. */
export interface Detail {
  row: string;
  columns: string[];
  inner: string;
}
/** What a report begins with. */
export const EMPTY: Definition = {
  row: "asset",
  columns: ["name", "kind", "place"].map((field) => ({ field, formula: "", label: "" })),
  filter: "",
  inner: "",
  group_by: [],
  totals: [],
  sort: "",
  days: 7,
  plot: "",
  details: [],
};
/** Rows that have no condition of their own: the report's filter is theirs. */
export const WHOLE_ROWS = ["asset"];

/** Return the columns a row of a kind begins with. */
export function begun(known: { name: string }[]): Column[] {
  const names = known.map((k) => k.name);
  const wanted = [
    "asset.name",
    "name",
    "product",
    "thing",
    "verb",
    "before",
    "after",
    "kind",
    "place",
  ].filter((n) => names.includes(n));
  return (wanted.length ? wanted : names.slice(0, 3))
    .slice(0, 5)
    .map((field) => ({ field, formula: "", label: "" }));
}

/** Adds a column that is arithmetic over those before it. */
export function Reckoned({ add }: { add: (column: Column) => void }) {
  const [formula, setFormula] = useState("");
  const [label, setLabel] = useState("");
  return (
    <div className="mb-3 flex gap-1">
      <input
        className="input input-sm mono min-w-0 flex-1"
        placeholder={t("memory / cores")}
        aria-label={t("Formula of a reckoned column")}
        value={formula}
        onChange={(e) => setFormula(e.target.value)}
      />
      <input
        className="input input-sm w-28"
        placeholder={t("called")}
        aria-label={t("Name of the reckoned column")}
        value={label}
        onChange={(e) => setLabel(e.target.value)}
      />
      <button
        type="button"
        className="btn btn-sm"
        disabled={!formula.trim()}
        onClick={() => {
          add({ field: "", formula: formula.trim(), label: label.trim() });
          setFormula("");
          setLabel("");
        }}
      >
        {t("+ reckoned")}
      </button>
    </div>
  );
}

export type RowKind = Schemas["RowKindOut"];

/** What a row of a report may be, as the rooms that have them say. */
export function useRowKinds() {
  return useQuery({
    ...asks("/api/reports/rows"),
    staleTime: 60_000,
  });
}

/** Return what says in a word what a row of a report is. */
export function useRowWords(): (row: string) => string {
  const kinds = useRowKinds().data ?? [];
  return (row) => kinds.find((k) => k.name === row)?.one ?? row.replace(/_/g, " ");
}
