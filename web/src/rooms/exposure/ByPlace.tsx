import { useQuery } from "@tanstack/react-query";
import { Link } from "@tanstack/react-router";
import { useState } from "react";
import { asks } from "../../api/asking";
import type { Schemas } from "../../api/client";
import { both } from "../../parts/ask/written";
import { capital, count } from "../../parts/format";
import { GRADES } from "../../parts/Graded";
import { Unanswered } from "../../parts/Problem";
import { Table } from "../../parts/table/Table";

type Row = Schemas["HeatRow"];

const BY: [string, string][] = [
  ["place", "Place"],
  ["kind", "Kind"],
  ["department", "Department"],
  ["manufacturer", "Manufacturer"],
  ["os.name", "System"],
  ["organisation", "Organisation"],
];

/** Open findings laid out by a field and by grade: the fuller a cell, the more is open there. */
export function ByPlace({ filter, at }: { filter: string; at: string | undefined }) {
  const [by, setBy] = useState("place");
  const asked = useQuery({
    ...asks("/api/exposure/heat", { params: { query: { by, filter, as_of: at } } }),
    placeholderData: (before) => before,
  });
  if (asked.error || !asked.data) return <Unanswered asked={asked} what="Laying out what is open …" />;
  const rows = asked.data.rows;
  const most = Math.max(1, ...rows.flatMap((r) => r.grades.map((c) => c.devices)));
  const label = BY.find(([key]) => key === by)?.[1] ?? by;
  return (
    <>
      <div className="flex flex-wrap items-center gap-2 pb-2.5">
        <span className="dim text-[13px]">Laid out by</span>
        {BY.map(([key, name]) => (
          <button
            key={key}
            type="button"
            aria-pressed={by === key}
            className={`btn btn-sm ${by === key ? "btn-primary" : ""}`}
            onClick={() => setBy(key)}
          >
            {name}
          </button>
        ))}
      </div>
      <div className="sheet overflow-x-auto">
        <Table
          list={`exposure-by-${by}`}
          label={`What is open by ${label.toLowerCase()}`}
          rows={rows}
          rowKey={(r) => r.name}
          columns={[
            {
              key: "name",
              label,
              of: (r) => r.name,
              cell: (r) => (
                <Link
                  to="/estate"
                  search={{ at, q: both(filter, r.within) }}
                  className="link-quiet font-semibold"
                >
                  {r.name}
                </Link>
              ),
            },
            {
              key: "devices",
              label: "Open",
              of: (r) => r.devices,
              cell: (r) => (
                <Link to="/estate" search={{ at, q: both(filter, r.filter) }} className="link-quiet">
                  {count(r.devices)}
                </Link>
              ),
              num: true,
              meaning: "devices open to any advisory",
            },
            { key: "of", label: "Of", of: (r) => r.of, cell: (r) => count(r.of), num: true },
            ...GRADES.map((grade, n) => ({
              key: grade,
              label: capital(grade),
              of: (r: Row) => r.grades[n]?.devices ?? 0,
              cell: (r: Row) => (
                <Heat number={r.grades[n]?.devices ?? 0} most={most} grade={grade}>
                  <Link
                    to="/estate"
                    search={{ at, q: both(filter, r.grades[n]?.filter) }}
                    className="link-quiet"
                  >
                    {count(r.grades[n]?.devices ?? 0)}
                  </Link>
                </Heat>
              ),
              num: true,
              meaning: "devices with something open that asks for this",
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
  return (
    <span
      className="inline-block min-w-16 rounded px-2 py-0.5 text-right tabular-nums"
      style={{ background: `color-mix(in oklab, ${colour} ${part / 2}%, transparent)` }}
    >
      {children}
    </span>
  );
}
