import {
  type ColumnDef,
  columnOrderingFeature,
  columnSizingFeature,
  columnVisibilityFeature,
  createSortedRowModel,
  type RowData,
  rowSelectionFeature,
  rowSortingFeature,
  tableFeatures,
  useTable,
} from "@tanstack/react-table";
import { type ReactNode, useEffect, useId, useMemo, useRef, useState } from "react";
import { toast } from "sonner";
import { t } from "../../words";
import { plural } from "../format";
import { type Column, order, said } from "./column";
import { copyTable } from "./copy";
import { Edge, movable, moved } from "./Edge";
import { useLayout } from "./kept";
import { ListMenu } from "./ListMenu";

/** Rows drawn at first, and more at a time as their end is scrolled to. */
const AT_ONCE = 200;

const features = tableFeatures({
  columnVisibilityFeature,
  columnOrderingFeature,
  columnSizingFeature,
  rowSortingFeature,
  rowSelectionFeature,
  sortedRowModel: createSortedRowModel(),
});

interface Props<T> {
  /** Names the list where its layout is kept, and the files written of it. */
  list: string;
  /** What is listed, as a heading would say it. */
  label: string;
  rows: T[];
  columns: Column<T>[];
  rowKey: (row: T) => string | number;
  rowClass?: (row: T) => string | undefined;
  /** What is done with rows that are ticked; where it is given, rows have a box to tick. */
  acts?: (ticked: T[], clear: () => void) => ReactNode;
  /** Rows that are ticked but may not be, such as those nothing can be done with. */
  tickable?: (row: T) => boolean;
  /** A line under the rows. */
  foot?: ReactNode;
}

/**
 * Every list of Tarn but the register: sorted by a click, its columns chosen, moved and sized, its rows ticked
 * in ranges and walked by key, what is ticked (or all of it) copied and written to a file.
 */
export function Table<T extends RowData>({
  list,
  label,
  rows,
  columns,
  rowKey,
  rowClass,
  acts,
  tickable,
  foot,
}: Props<T>) {
  const { layout, change, reset, plain } = useLayout(list);
  const [drawn, setDrawn] = useState(AT_ONCE);
  const dragged = useRef<string | null>(null);
  const menu = useId();
  const body = useRef<HTMLTableSectionElement>(null);
  const byKey = new Map(columns.map((c) => [c.key, c]));
  const latest = useRef(byKey);
  latest.current = byKey;
  // Columns are often written out anew at each drawing; they are the same as long as they are called the same.
  const same = JSON.stringify(columns.map((c) => [c.key, Boolean(c.of), c.num ?? false]));
  const definitions = useMemo(
    () =>
      (JSON.parse(same) as [string, boolean, boolean][]).map(
        ([id, says, num]): ColumnDef<typeof features, T> => ({
          id,
          accessorFn: (row: T) => latest.current.get(id)?.of?.(row) ?? undefined,
          enableSorting: says,
          enableHiding: says,
          sortDescFirst: num, // of numbers one asks for the largest
          sortUndefined: "last",
          sortFn: (a, b, column) => order(a.getValue(column), b.getValue(column)),
        }),
      ),
    [same],
  );
  const spare = Object.fromEntries(columns.filter((c) => c.spare).map((c) => [c.key, false]));
  const table = useTable({
    features,
    columns: definitions,
    data: rows,
    getRowId: (row) => String(rowKey(row)),
    sortDescFirst: false,
    enableRowSelection: tickable ? (row) => tickable(row.original) : true,
    state: {
      columnVisibility: { ...spare, ...layout.hidden },
      columnOrder: ordered(layout.order, columns),
      columnSizing: layout.sizes,
    },
  });
  const shown = table.getVisibleLeafColumns().flatMap((c) => byKey.get(c.id) ?? []);
  const named = shown.filter((c) => c.of);
  const sorted = table.getRowModel().rows;
  const here = new Set(sorted.map((r) => r.id));
  const ticked = sorted.filter((r) => r.getIsSelected() && here.has(r.id));
  const sort = table.state.sorting[0];

  const lines = () => {
    const chosen = ticked.length ? ticked : sorted;
    return [named.map((c) => c.label), ...chosen.map((r) => named.map((c) => said(c, r.original)))];
  };
  const copy = async () => {
    const all = lines();
    await copyTable(all);
    toast.success(t("{{rows}} copied.", { rows: plural(all.length - 1, "row") }));
  };
  const walk = (event: React.KeyboardEvent<HTMLTableSectionElement>) => {
    if ((event.ctrlKey || event.metaKey) && event.key === "c" && !window.getSelection()?.toString()) {
      event.preventDefault();
      void copy();
      return;
    }
    const row = event.target as HTMLElement;
    if (row.tagName !== "TR") return; // what stands in a cell keeps its own keys
    const at = sorted.findIndex((r) => r.id === row.dataset.row);
    const next = { ArrowDown: at + 1, ArrowUp: at - 1, Home: 0, End: Math.min(drawn, sorted.length) - 1 }[
      event.key
    ];
    if (next !== undefined) {
      event.preventDefault();
      const other = sorted[next];
      if (!other) return;
      if (event.shiftKey && acts) for (const one of [sorted[at], other]) one?.toggleSelected(true);
      body.current?.rows[next]?.focus();
    } else if (event.key === "x" && acts) sorted[at]?.toggleSelected();
    else if (event.key === "a" && (event.ctrlKey || event.metaKey) && acts) {
      event.preventDefault();
      table.toggleAllRowsSelected(true);
    } else if (event.key === "Escape") table.resetRowSelection(true);
    else if (event.key === "Enter") row.querySelector<HTMLElement>("a, button")?.click();
  };
  const move = (column: string, to: number) =>
    change({ order: moved(ordered(layout.order, columns), column, to) });
  const size = (column: string, px: number | null) => {
    const sizes = { ...layout.sizes };
    if (px === null) delete sizes[column];
    else sizes[column] = Math.round(px);
    change({ sizes });
  };
  // Where the last column has no heading, what is done with the whole list stands there; else at its side.
  const last = shown.at(-1);
  const doing = last?.of ? undefined : last;
  const whole = (
    <ListMenu
      menu={menu}
      label={label}
      columns={columns}
      shown={new Set(shown.map((c) => c.key))}
      choose={(key, on) => change({ hidden: { ...layout.hidden, [key]: on } })}
      reset={plain ? undefined : reset}
      copy={() => void copy()}
      ticked={ticked.length}
      data={() => ({
        columns: named.map((c) => ({ label: c.label, number: c.num ?? false })),
        rows: (ticked.length ? ticked : sorted).map((r) =>
          named.map((c) => {
            const value = c.of?.(r.original);
            return typeof value === "boolean" ? (value ? "yes" : "") : (value ?? null);
          }),
        ),
      })}
    />
  );
  return (
    <>
      {acts && ticked.length > 0 && (
        <div className="flex flex-wrap items-center gap-2 border-b border-base-300 bg-[var(--wash)] px-3 py-1.5 text-[13px]">
          <b>{t("{{rows}} ticked", { rows: plural(ticked.length, "row") })}</b>
          {acts(
            ticked.map((r) => r.original),
            () => table.resetRowSelection(true),
          )}
          <button type="button" className="btn btn-sm" onClick={() => void copy()}>
            {t("Copy")}
          </button>
          <button
            type="button"
            className="btn btn-ghost btn-sm"
            onClick={() => table.resetRowSelection(true)}
          >
            {t("Untick")}
          </button>
        </div>
      )}
      <table className="grid-table" aria-label={label}>
        <thead>
          <tr>
            {acts && (
              <th className="w-6 !pr-0">
                <input
                  type="checkbox"
                  className="checkbox checkbox-xs align-middle"
                  aria-label={t("Tick all")}
                  checked={sorted.length > 0 && table.getIsAllRowsSelected()}
                  ref={(box) => {
                    if (box) box.indeterminate = table.getIsSomeRowsSelected();
                  }}
                  onChange={(e) => table.toggleAllRowsSelected(e.target.checked)}
                />
              </th>
            )}
            {shown.map((c, place) => {
              const on = sort?.id === c.key ? (sort.desc ? "descending" : "ascending") : "none";
              return (
                <th
                  key={c.key}
                  aria-sort={c.of ? on : undefined}
                  className={`group relative ${c.num ? "num" : ""}`}
                  style={wide(layout.sizes[c.key])}
                  {...(c.of ? movable(dragged, c.key, place, move, (px) => size(c.key, px)) : {})}
                >
                  {c.of ? (
                    <button
                      type="button"
                      title={c.meaning}
                      className={`w-full truncate hover:underline ${c.num ? "text-right" : "text-left"}`}
                      onClick={() => table.getColumn(c.key)?.toggleSorting()}
                    >
                      {c.label}
                      {on === "none" ? "" : on === "descending" ? " ↓" : " ↑"}
                    </button>
                  ) : (
                    <span className="block text-right">
                      <span className="sr-only">{c.label || t("More")}</span>
                      {c === doing && whole}
                    </span>
                  )}
                  {c.of && <Edge silent label={c.label} size={(px) => size(c.key, px)} />}
                </th>
              );
            })}
            {!doing && <th className="w-7 !px-0.5 text-right">{whole}</th>}
          </tr>
        </thead>
        <tbody ref={body} onKeyDown={walk}>
          {sorted.slice(0, drawn).map((r, place) => (
            <tr
              key={r.id}
              data-row={r.id}
              tabIndex={place === 0 ? 0 : -1}
              className={`${rowClass?.(r.original) ?? ""} ${r.getIsSelected() ? "bg-[var(--wash)]" : ""} focus-visible:-outline-offset-2`}
            >
              {acts && (
                <td className="!pr-0">
                  <input
                    type="checkbox"
                    className="checkbox checkbox-xs align-middle"
                    aria-label={t("Tick {{named}}", {
                      named: said(named[0] ?? shown[0] ?? { key: "", label: "" }, r.original),
                    })}
                    tabIndex={-1}
                    checked={r.getIsSelected()}
                    disabled={!r.getCanSelect()}
                    onClick={r.getToggleSelectedHandler()}
                    onChange={() => undefined}
                  />
                </td>
              )}
              {shown.map((c) => (
                <td
                  key={c.key}
                  className={`${c.num ? "num" : ""} ${c.mono ? "mono" : ""} ${c.className ?? ""}`}
                  style={wide(layout.sizes[c.key])}
                >
                  {c.cell ? c.cell(r.original) : said(c, r.original)}
                </td>
              ))}
              {!doing && <td className="!px-0" aria-hidden />}
            </tr>
          ))}
          {sorted.length > drawn && (
            <More
              columns={shown.length + 2}
              seen={() => setDrawn((n) => n + AT_ONCE)}
              rest={sorted.length - drawn}
            />
          )}
        </tbody>
        {foot}
      </table>
    </>
  );
}

const wide = (px: number | undefined) =>
  px ? { width: px, minWidth: px, maxWidth: px, overflow: "hidden", textOverflow: "ellipsis" } : undefined;

/** The keys of all columns, those that were moved in their places, those that came since at their own. */
function ordered<T>(kept: string[], columns: Column<T>[]): string[] {
  const keys = columns.map((c) => c.key);
  const known = kept.filter((k) => keys.includes(k));
  for (const [place, key] of keys.entries()) if (!known.includes(key)) known.splice(place, 0, key);
  return known;
}

/** The last row while not all are drawn: draws more once it is seen, or when it is asked to. */
function More({ columns, seen, rest }: { columns: number; seen: () => void; rest: number }) {
  const row = useRef<HTMLTableRowElement>(null);
  const told = useRef(seen);
  told.current = seen;
  useEffect(() => {
    if (!row.current || typeof IntersectionObserver === "undefined") return;
    const watch = new IntersectionObserver((entries) => {
      if (entries.some((e) => e.isIntersecting)) told.current();
    });
    watch.observe(row.current);
    return () => watch.disconnect();
  }, []);
  return (
    <tr ref={row}>
      <td colSpan={columns}>
        <button type="button" className="link-quiet font-semibold" onClick={seen}>
          {t("{{rows}} more", { rows: plural(rest, "row") })}
        </button>
      </td>
    </tr>
  );
}
