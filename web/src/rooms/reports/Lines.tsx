import { Fragment, useCallback, useMemo } from "react";
import type { Schemas } from "../../api/client";
import { axes, Chart, type Inks } from "../../parts/chart/Chart";
import { DeviceLink } from "../../parts/DeviceLink";
import { lineText, NUMBERS, plural } from "../../parts/format";
import type { Column, Value } from "../../parts/table/column";
import { Table } from "../../parts/table/Table";
import { t } from "../../words";

type Line = Schemas["LineOut"];
type Block = Schemas["BlockOut"];
type Told = Pick<Schemas["PreviewOut"], "columns" | "lines" | "blocks">;

/** A value as a list is sorted, copied and written by it. */
function bare(value: unknown, type: string): Value {
  if (type === "day" && value) return String(value).slice(0, 10);
  return typeof value === "number" || typeof value === "boolean" ? value : value ? String(value) : null;
}

const looks = (type: string) => (type === "moment" || type === "day" ? "whitespace-nowrap" : undefined);

/** The lines of a report: rows with what is listed under them, and under each group and the whole its figures. */
export function Lines(props: { report: Told; at: string | undefined; name: string }) {
  const { report, at } = props;
  const { columns, lines, blocks } = report;
  const named = columns.findIndex((c) => c.name === "name" || c.name === "asset.name");
  const cell = (line: Line, i: number) => {
    const text = lineText(line.values[i], columns[i]?.type ?? "");
    if (i !== named || line.id === null || line.id === undefined) return text;
    return (
      <DeviceLink asset={line.id} at={at}>
        {text || t("no name")}
      </DeviceLink>
    );
  };
  if (lines.every((line) => line.kind === "row" && line.details.every((rows) => !rows.length)))
    return (
      <div className="sheet overflow-x-auto">
        <Table
          list={`report-${props.name}`}
          label={props.name}
          rows={lines.map((line, place) => ({ place, line }))}
          rowKey={(row) => row.place}
          columns={columns.map(
            (c, i): Column<{ place: number; line: Line }> => ({
              key: c.name,
              label: c.label,
              of: ({ line }) => bare(line.values[i], c.type),
              cell: ({ line }) => cell(line, i),
              num: NUMBERS.has(c.type),
              className: looks(c.type),
            }),
          )}
        />
      </div>
    );
  return (
    <div className="sheet overflow-x-auto">
      <table className="grid-table">
        <thead>
          <tr>
            {columns.map((c) => (
              <th key={c.name} className={NUMBERS.has(c.type) ? "num" : ""}>
                {c.label}
              </th>
            ))}
          </tr>
        </thead>
        <tbody>
          {lines.map((line, n) =>
            line.kind === "row" ? (
              <Fragment key={`${line.id}-${line.values.join("|")}-${n}`}>
                <tr>
                  {columns.map((c, i) => (
                    <td key={c.name} className={NUMBERS.has(c.type) ? "num" : looks(c.type)}>
                      {cell(line, i)}
                    </td>
                  ))}
                </tr>
                {line.details.some((rows) => rows.length > 0) && (
                  <tr>
                    <td colSpan={columns.length} className="!pl-8">
                      <Under blocks={blocks} details={line.details} />
                    </td>
                  </tr>
                )}
              </Fragment>
            ) : (
              <tr key={`${line.kind}-${line.keys.join("|")}-${n}`} className="bg-[var(--head)]">
                <td
                  colSpan={columns.length}
                  style={{ paddingLeft: 12 + 14 * Math.max(0, line.keys.length - 1) }}
                >
                  <b className="font-semibold">
                    {line.kind === "whole"
                      ? t("All")
                      : line.keys.map((k) => (k === null || k === "" ? "none" : String(k))).join(" / ")}
                  </b>{" "}
                  <span className="dim">
                    {plural(line.rows, "row")}
                    {line.said && `; ${line.said}`}
                  </span>
                </td>
              </tr>
            ),
          )}
        </tbody>
      </table>
    </div>
  );
}

/** What is listed under a row: the blocks that have something, side by side where there is room. */
function Under({ blocks, details }: { blocks: Block[]; details: unknown[][][] }) {
  return (
    <div className="flex flex-wrap items-start gap-x-6 gap-y-2 pb-1">
      {blocks.map((block, i) => {
        const rows = details[i] ?? [];
        return (
          rows.length > 0 && (
            <table key={block.label} className="w-auto text-[12.5px]">
              <caption className="faint pb-0.5 text-left">{block.label}</caption>
              <thead>
                <tr>
                  {block.columns.map((c) => (
                    <th key={c.name} className="!py-0.5 pr-4 text-left font-semibold">
                      {c.label}
                    </th>
                  ))}
                </tr>
              </thead>
              <tbody>
                {rows.map((row) => (
                  <tr key={row.join("|")}>
                    {block.columns.map((c, k) => (
                      <td key={c.name} className="!border-0 !py-0.5 pr-4">
                        {lineText(row[k], c.type)}
                      </td>
                    ))}
                  </tr>
                ))}
              </tbody>
            </table>
          )
        );
      })}
    </div>
  );
}

const MOST_BARS = 24;

/** The groups of a report as bars, the largest first; the lines below say the same. */
export function GroupBars({ lines }: { lines: Line[] }) {
  const groups = useMemo(
    () =>
      lines
        .filter((l) => l.kind === "group" && l.keys.length === 1)
        .map((l) => ({ name: String(l.keys[0] ?? "none") || "none", rows: l.rows }))
        .sort((a, b) => b.rows - a.rows),
    [lines],
  );
  const shown = groups.slice(0, MOST_BARS);
  const draw = useCallback((ink: Inks) => asBars(groups.slice(0, MOST_BARS), ink), [groups]);
  if (groups.length < 2) return null;
  return (
    <div className="sheet mb-3 px-3.5 py-2 text-[13px]">
      <Chart
        label={t("Rows by group: {{shown}}", { shown: shown.map((g) => `${g.name} ${g.rows}`).join(", ") })}
        draw={draw}
        height={24 * shown.length + 34}
      />
      {groups.length > MOST_BARS && (
        <p className="faint">{t("and {{groups}} more", { groups: groups.length - MOST_BARS })}</p>
      )}
    </div>
  );
}

function asBars(groups: { name: string; rows: number }[], ink: Inks) {
  const { grid, names, numbers, tooltip, words } = axes(ink);
  return {
    grid,
    tooltip,
    yAxis: { type: "category", data: groups.map((g) => g.name), inverse: true, ...names },
    xAxis: { type: "value", ...numbers },
    series: [
      {
        name: "Rows",
        type: "bar",
        barMaxWidth: 14,
        data: groups.map((g) => g.rows),
        itemStyle: { color: ink.first, borderRadius: [0, 2, 2, 0] },
        label: { show: true, position: "right", ...words },
      },
    ],
  };
}
