import { useQueries } from "@tanstack/react-query";
import { useNavigate } from "@tanstack/react-router";
import { useVirtualizer } from "@tanstack/react-virtual";
import { useEffect, useMemo, useRef, useState } from "react";
import { asks } from "../../api/asking";
import type { FieldInfo, Row } from "../../api/types";
import { SetForm } from "../../parts/acts/SetForm";
import { plural } from "../../parts/format";
import { useMay } from "../../parts/me";
import { Empty } from "../../parts/Problem";
import { moved } from "../../parts/table/Edge";
import { t } from "../../words";
import { Cells, PhoneRow } from "./Cells";
import { useSmallScreen, useWidths } from "./columns";
import { type Editable, isEditable } from "./EditCell";
import { Heads } from "./Heads";
import { copyTicked, useTicks } from "./ticking";

const PAGE = 100;
const ROW = 31;

interface Props {
  filter: string;
  at: string | undefined;
  sort: string;
  total: number;
  columns: string[];
  setColumns: (columns: string[]) => void;
  fields: Map<string, FieldInfo>;
  peeked: number | undefined;
  setSort: (sort: string) => void;
  setFilter: (filter: string) => void;
  setPeek: (asset: number | undefined) => void;
}

/** The register: pages come from the server as they are scrolled to; only what is seen is drawn. */
export function Register({
  filter,
  at,
  sort,
  total,
  columns,
  setColumns,
  fields,
  peeked,
  setSort,
  setFilter,
  setPeek,
}: Props) {
  const scroller = useRef<HTMLDivElement>(null);
  const navigate = useNavigate();
  const [cursor, setCursor] = useState(0);
  const [keeping, setKeeping] = useState(false);
  const [editing, setEditing] = useState<{ row: number; field: Editable } | null>(null);
  const mayEdit = useMay("decide") && !at;
  const ticks = useTicks({ filter, at, sort });
  const picked = ticks.ticked;
  const layout = useWidths();
  const narrow = useSmallScreen();
  const editable = columns.filter(isEditable);
  const edit = (row: Row, field: Editable | undefined) =>
    mayEdit && field && setEditing({ row: row.id, field });
  const leaveCell = (row: Row, field: Editable, next: 1 | -1 | 0) => {
    const other = next ? editable[editable.indexOf(field) + next] : undefined;
    setEditing(other ? { row: row.id, field: other } : null);
    if (!other) scroller.current?.focus();
  };
  const virtual = useVirtualizer({
    count: total,
    getScrollElement: () => scroller.current,
    estimateSize: () => ROW,
    overscan: 12,
  });
  const seen = virtual.getVirtualItems();
  const pages = useMemo(() => {
    const first = Math.floor((seen[0]?.index ?? 0) / PAGE);
    const last = Math.floor((seen[seen.length - 1]?.index ?? 0) / PAGE);
    return Array.from({ length: last - first + 1 }, (_, i) => first + i);
  }, [seen]);
  const asked = [...new Set([...columns.filter((c) => c !== "evidence"), "number"])].join(",");
  const results = useQueries({
    queries: pages.map((page) => ({
      ...asks("/api/assets", {
        params: { query: { filter, as_of: at, sort, fields: asked, offset: page * PAGE, limit: PAGE } },
      }),
      staleTime: 15_000,
    })),
  });
  const rowAt = (index: number): Row | undefined => {
    const place = pages.indexOf(Math.floor(index / PAGE));
    return results[place]?.data?.rows[index % PAGE] as Row | undefined;
  };
  useEffect(() => {
    if (filter !== undefined) {
      setCursor(0);
      setEditing(null);
    }
  }, [filter]);

  const template = `26px ${columns.map(layout.width).join(" ")}`;
  const copy = () => {
    const row = rowAt(cursor);
    const numbers = picked.size ? [...picked.values()] : row ? [String(row.number)] : [];
    if (numbers.length) void copyTicked({ filter, at, sort }, numbers, columns, fields);
  };
  const open = (asset: number) =>
    void navigate({ to: "/assets/$asset", params: { asset: String(asset) }, search: { at } as never });
  const keys = (event: React.KeyboardEvent) => {
    const steps: Record<string, number> = { ArrowDown: 1, ArrowUp: -1, PageDown: 20, PageUp: -20 };
    const step = steps[event.key];
    if (step !== undefined) {
      event.preventDefault();
      const next = Math.max(0, Math.min(total - 1, cursor + step));
      setCursor(next);
      virtual.scrollToIndex(next);
      if (event.shiftKey) void ticks.upTo(next);
      const row = rowAt(next);
      if (peeked !== undefined && row) setPeek(row.id);
    } else if (event.target === event.currentTarget) {
      const row = rowAt(cursor);
      if (event.key === "Enter" && row) open(row.id);
      if (event.key === " " && row) {
        event.preventDefault();
        setPeek(peeked === row.id ? undefined : row.id);
      }
      if (event.key === "x" && row) ticks.toggle(row, cursor);
      if (event.key === "F2" && row) edit(row, editable[0]);
      if (event.ctrlKey || event.metaKey) {
        if (event.key === "a") {
          event.preventDefault();
          void ticks.all();
        }
        if (event.key === "c" && !window.getSelection()?.toString()) copy();
      }
      if (event.key === "Escape") setPeek(undefined);
    }
  };
  if (total === 0) {
    return (
      <Empty title={t("No asset answers this.")}>
        {filter
          ? t("Widen the question, or turn the dial to another day.")
          : t("Nothing has been adopted yet: start a sweep in Discovery, then decide at intake.")}
      </Empty>
    );
  }
  return (
    <div
      ref={scroller}
      role="grid"
      aria-label={t("Register")}
      aria-rowcount={total}
      tabIndex={0}
      onKeyDown={keys}
      className="h-full overflow-auto bg-base-100 focus-visible:-outline-offset-2"
    >
      <div className="min-w-full" style={{ minWidth: narrow ? undefined : layout.least(columns) }}>
        <Heads
          columns={columns}
          fields={fields}
          sort={sort}
          template={template}
          ticked={ticks.ticked.size === 0 ? "none" : ticks.ticked.size === total ? "all" : "some"}
          tickAll={() => (ticks.ticked.size === total ? ticks.clear() : void ticks.all())}
          setSort={setSort}
          move={(column, to) => setColumns(moved(columns, column, to))}
          size={layout.size}
        />
        <div className="relative" style={{ height: virtual.getTotalSize() }}>
          {seen.map((item) => {
            const row = rowAt(item.index);
            const here = item.index === cursor;
            const on = row !== undefined && row.id === peeked;
            return (
              <div
                key={item.key}
                role="row"
                aria-rowindex={item.index + 1}
                aria-selected={on}
                data-asset={row?.id}
                onClick={() => {
                  setCursor(item.index);
                  if (row) setPeek(on ? undefined : row.id);
                }}
                onKeyDown={() => undefined}
                className={`absolute inset-x-0 top-0 cursor-default border-b border-[var(--line-2)] px-2 text-[13px] ${
                  on
                    ? "bg-[var(--wash)] shadow-[inset_3px_0_0_var(--color-primary)]"
                    : here
                      ? "bg-[var(--head)]"
                      : "bg-base-100 hover:bg-[var(--head)]"
                }`}
                style={{ height: ROW, transform: `translateY(${item.start}px)` }}
              >
                {row && (
                  <Cells
                    row={row}
                    picked={picked.has(row.id)}
                    pick={(range) => (range ? void ticks.upTo(item.index) : ticks.toggle(row, item.index))}
                    editing={editing?.row === row.id ? editing.field : null}
                    edit={mayEdit ? (field) => edit(row, field) : undefined}
                    leave={(field, next) => leaveCell(row, field, next)}
                    columns={columns}
                    fields={fields}
                    template={template}
                    at={at}
                    filter={filter}
                    setFilter={setFilter}
                  />
                )}
                {row && <PhoneRow row={row} at={at} />}
              </div>
            );
          })}
        </div>
      </div>
      {picked.size > 0 && (
        <p
          role="status"
          className="sticky bottom-0 left-0 z-10 flex items-center gap-3 border-t border-base-300 bg-[var(--wash)] px-4 py-2 text-[13px]"
        >
          <b>{t("{{assets}} ticked", { assets: plural(picked.size, "asset") })}</b>
          <button
            type="button"
            className="btn btn-primary btn-xs"
            onClick={() => setFilter(`number in (${[...picked.values()].join(", ")})`)}
          >
            {t("Only these")}
          </button>
          <button type="button" className="btn btn-xs" onClick={() => setKeeping(true)}>
            {t("Keep these")}
          </button>
          <button type="button" className="btn btn-xs" onClick={copy}>
            {t("Copy")}
          </button>
          <button type="button" className="btn btn-xs" onClick={ticks.clear}>
            {t("Clear")}
          </button>
          <span className="dim">{t("then change them or run a task on them")}</span>
        </p>
      )}
      {keeping && <SetForm held={null} picked={[...picked.values()]} close={() => setKeeping(false)} />}
    </div>
  );
}
