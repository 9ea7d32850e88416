import { useQuery } from "@tanstack/react-query";
import { Link } from "@tanstack/react-router";
import { useState } from "react";
import { asks } from "../../api/asking";
import type { Schemas } from "../../api/client";
import { both } from "../../parts/ask/written";
import { capital, count } from "../../parts/format";
import { Unanswered } from "../../parts/Problem";
import { Table } from "../../parts/table/Table";
import { t } from "../../words";
import type { Asked } from "./asked";

type Row = Schemas["HeatRow"];

const BY: [string, string][] = [
  ["place", t("Place")],
  ["kind", t("Kind")],
  ["department", t("Department")],
  ["manufacturer", t("Manufacturer")],
  ["os.name", t("System")],
  ["organisation", t("Organisation")],
  ["grade", t("Grade")],
  ["age", t("For how long")],
];
const nameOf = (key: string) => BY.find(([k]) => k === key)?.[1] ?? key;

/** Open findings laid out by two things at once: the fuller a cell, the more is open there. */
export function ByPlace({ filter, at, known }: Asked) {
  const [by, setBy] = useState("place");
  const [across, setAcross] = useState("grade");
  const asked = useQuery({
    ...asks("/api/exposure/heat", { params: { query: { by, across, filter, as_of: at, known } } }),
    placeholderData: (before) => before,
  });
  if (asked.error || !asked.data) return <Unanswered asked={asked} what={t("Laying out what is open …")} />;
  const { rows, columns } = asked.data;
  const most = Math.max(1, ...rows.flatMap((r) => r.cells.map((c) => c.devices)));
  const label = nameOf(by);
  const choose = (key: string) => {
    // Laid out by one thing twice it would say nothing: the two change places.
    if (key === across) setAcross(by);
    setBy(key);
  };
  return (
    <>
      <div className="flex flex-wrap items-center gap-2 pb-2.5">
        <span className="dim text-[13px]">{t("Laid out by")}</span>
        {BY.map(([key, name]) => (
          <button
            key={key}
            type="button"
            aria-pressed={by === key}
            className={`btn btn-sm ${by === key ? "btn-primary" : ""}`}
            onClick={() => choose(key)}
          >
            {name}
          </button>
        ))}
        <label className="dim flex items-center gap-2 text-[13px]">
          {t("and by")}
          <select
            className="select select-sm w-40"
            value={across}
            onChange={(e) => setAcross(e.target.value)}
            aria-label={t("Laid out across by")}
          >
            {BY.filter(([key]) => key !== by).map(([key, name]) => (
              <option key={key} value={key}>
                {name}
              </option>
            ))}
          </select>
        </label>
      </div>
      <div className="sheet overflow-x-auto">
        <Table
          list={`exposure-by-${by}-${across}`}
          label={t("What is open by {{label}} and {{across}}", {
            label: label.toLowerCase(),
            across: nameOf(across).toLowerCase(),
          })}
          rows={rows}
          rowKey={(r) => r.name}
          columns={[
            {
              key: "name",
              label,
              of: (r) => r.name,
              cell: (r) =>
                r.within ? (
                  <Link
                    to="/estate"
                    search={{ at, q: both(filter, r.within) }}
                    className="link-quiet font-semibold"
                  >
                    {r.name}
                  </Link>
                ) : (
                  <b className="font-semibold">{r.name}</b>
                ),
            },
            {
              key: "devices",
              label: t("Open"),
              of: (r) => r.devices,
              cell: (r) => (
                <Link to="/estate" search={{ at, q: both(filter, r.filter) }} className="link-quiet">
                  {count(r.devices)}
                </Link>
              ),
              num: true,
              meaning: t("devices with anything open"),
            },
            { key: "of", label: t("Of"), of: (r) => r.of, cell: (r) => count(r.of), num: true },
            ...columns.map((column, n) => ({
              key: `across-${column}`,
              label: capital(column),
              of: (r: Row) => r.cells[n]?.devices ?? 0,
              cell: (r: Row) => (
                <Heat number={r.cells[n]?.devices ?? 0} most={most} grade={column}>
                  <Link
                    to="/estate"
                    search={{ at, q: both(filter, r.cells[n]?.filter) }}
                    className="link-quiet"
                  >
                    {count(r.cells[n]?.devices ?? 0)}
                  </Link>
                </Heat>
              ),
              num: true,
            })),
          ]}
        />
      </div>
    </>
  );
}

interface HeatProps {
  number: number;
  most: number;
  grade: string;
  children: React.ReactNode;
}

function Heat({ number, most, grade, children }: HeatProps) {
  if (!number) return <span className="faint">–</span>;
  const part = Math.round(12 + 48 * Math.sqrt(number / most));
  const colour =
    grade === "act now" ? "var(--color-error)" : grade === "this week" ? "var(--color-warning)" : "var(--s2)";
  const strength = grade === "this week" ? part : part / 2; // yellow is pale by itself
  return (
    <span
      className="inline-block min-w-16 rounded px-2 py-0.5 text-right tabular-nums"
      style={{ background: `color-mix(in oklab, ${colour} ${strength}%, transparent)` }}
    >
      {children}
    </span>
  );
}
