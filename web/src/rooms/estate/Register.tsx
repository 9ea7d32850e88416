import { useQueries } from "@tanstack/react-query";
import { Link, useNavigate } from "@tanstack/react-router";
import { useVirtualizer } from "@tanstack/react-virtual";
import { useEffect, useMemo, useRef, useState } from "react";
import { client, ok } from "../../api/client";
import type { FieldInfo, Row } from "../../api/types";
import { EvidenceMarks } from "../../parts/Evidence";
import { ago, moment, plural, shown } from "../../parts/format";
import { Empty } from "../../parts/Problem";
import { SetForm } from "../sets/SetForm";
import { fieldText } from "./build/model";
import { width } from "./columns";
import { narrow, quoted } from "./narrow";

const PAGE = 100;
const ROW = 31;
const MONO = new Set(["name", "number", "serial", "address", "mac", "uuid", "os.version", "os.kernel"]);
const NUMBERS = new Set(["number", "memory", "bytes", "percent", "bits"]);

interface Props {
  filter: string;
  at: string | undefined;
  sort: string;
  total: number;
  columns: string[];
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
  fields,
  peeked,
  setSort,
  setFilter,
  setPeek,
}: Props) {
  const scroller = useRef<HTMLDivElement>(null);
  const navigate = useNavigate();
  const [cursor, setCursor] = useState(0);
  const [picked, setPicked] = useState<Map<number, string>>(new Map());
  const [keeping, setKeeping] = useState(false);
  const pick = (row: Row) => {
    const next = new Map(picked);
    if (!next.delete(row.id)) next.set(row.id, String(row.number));
    setPicked(next);
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
      queryKey: ["register", filter, at, sort, asked, page],
      queryFn: () =>
        ok(
          client.GET("/api/assets", {
            params: { query: { filter, as_of: at, sort, fields: asked, offset: page * PAGE, limit: PAGE } },
          }),
        ),
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
      setPicked(new Map());
    }
  }, [filter]);

  const template = `26px ${columns.map(width).join(" ")}`;
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
      const row = rowAt(next);
      if (peeked !== undefined && row) setPeek(row.id);
    } else if (event.target === event.currentTarget) {
      const row = rowAt(cursor);
      if (event.key === "Enter" && row) open(row.id);
      if (event.key === " " && row) {
        event.preventDefault();
        setPeek(peeked === row.id ? undefined : row.id);
      }
      if (event.key === "x" && row) pick(row);
      if (event.key === "Escape") setPeek(undefined);
    }
  };
  if (total === 0) {
    return (
      <Empty title="No asset answers this.">
        {filter
          ? "Widen the question, or turn the dial to another day."
          : "Nothing has been adopted yet: start a sweep in Discovery, then decide at intake."}
      </Empty>
    );
  }
  return (
    <div
      ref={scroller}
      role="grid"
      aria-label="Register"
      aria-rowcount={total}
      tabIndex={0}
      onKeyDown={keys}
      className="h-full overflow-auto bg-base-100 focus-visible:-outline-offset-2"
    >
      <div className="min-w-full md:min-w-[860px]">
        <div
          role="row"
          className="sticky top-0 z-10 hidden border-b border-base-300 bg-[var(--head)] px-2 md:grid"
          style={{ gridTemplateColumns: template }}
        >
          <div role="columnheader">
            <span className="sr-only">Picked</span>
          </div>
          {columns.map((c) => {
            const field = fields.get(c);
            const down = sort === `-${c}`;
            const on = sort === c || down;
            return (
              <div
                key={c}
                role="columnheader"
                aria-sort={on ? (down ? "descending" : "ascending") : "none"}
                className="px-2 py-1.5"
              >
                {c === "evidence" ? (
                  <span className="dim block text-[11.5px] font-semibold">Evidence</span>
                ) : (
                  <button
                    type="button"
                    title={field?.meaning}
                    onClick={() => setSort(on && !down ? `-${c}` : c)}
                    className={`dim block w-full truncate text-[11.5px] font-semibold hover:underline ${
                      NUMBERS.has(field?.type ?? "") || c === "last_seen" ? "text-right" : "text-left"
                    }`}
                  >
                    {c === "last_seen" ? "Seen" : (field?.label ?? c)}
                    {on ? (down ? " ↓" : " ↑") : ""}
                  </button>
                )}
              </div>
            );
          })}
        </div>
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
                      : "hover:bg-[var(--head)]"
                }`}
                style={{ height: ROW, transform: `translateY(${item.start}px)` }}
              >
                {row && (
                  <Cells
                    row={row}
                    picked={picked.has(row.id)}
                    pick={() => pick(row)}
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
          <b>{plural(picked.size, "asset")} picked</b>
          <button
            type="button"
            className="btn btn-primary btn-xs"
            onClick={() => setFilter(`number in (${[...picked.values()].join(", ")})`)}
          >
            Only these
          </button>
          <button type="button" className="btn btn-xs" onClick={() => setKeeping(true)}>
            Keep these
          </button>
          <button type="button" className="btn btn-xs" onClick={() => setPicked(new Map())}>
            Clear
          </button>
          <span className="dim">then change them or run a task on them</span>
        </p>
      )}
      {keeping && <SetForm held={null} picked={[...picked.values()]} close={() => setKeeping(false)} />}
    </div>
  );
}

interface CellsProps {
  row: Row;
  picked: boolean;
  pick: () => void;
  columns: string[];
  fields: Map<string, FieldInfo>;
  template: string;
  at: string | undefined;
  filter: string;
  setFilter: (filter: string) => void;
}

function Cells({ row, picked, pick, columns, fields, template, at, filter, setFilter }: CellsProps) {
  return (
    <div className="hidden h-full items-center md:grid" style={{ gridTemplateColumns: template }}>
      <div role="gridcell" className="pl-1">
        <input
          type="checkbox"
          className="checkbox checkbox-xs align-middle"
          aria-label={`Pick ${row.name ?? row.number}`}
          tabIndex={-1}
          checked={picked}
          onClick={(e) => e.stopPropagation()}
          onChange={pick}
        />
      </div>
      {columns.map((c) => {
        const field = fields.get(c);
        const type = field?.type ?? "text";
        const value = row[c];
        const text = shown(type, c, value as string | number | null);
        const right = NUMBERS.has(type) || c === "last_seen";
        if (c === "evidence") {
          return (
            <div key={c} role="gridcell" className="px-2">
              <EvidenceMarks kinds={row.marks ?? []} />
            </div>
          );
        }
        if (c === "name" || c === "number") {
          return (
            <div key={c} role="gridcell" className="mono truncate px-2">
              <Link
                to="/assets/$asset"
                params={{ asset: String(row.id) }}
                search={{ at } as never}
                onClick={(e) => e.stopPropagation()}
                className="hover:underline"
              >
                {text || "no name"}
              </Link>
            </div>
          );
        }
        const narrows = (type === "choice" || type === "text") && typeof value === "string" && value !== "";
        return (
          <div
            key={c}
            role="gridcell"
            title={type === "moment" && value ? moment(String(value)) : undefined}
            className={`truncate px-2 ${MONO.has(c) ? "mono" : ""} ${right ? "num" : ""}`}
          >
            {narrows ? (
              <button
                type="button"
                tabIndex={-1}
                title={`Narrow to ${value}`}
                className="max-w-full truncate hover:underline"
                onClick={(e) => {
                  e.stopPropagation();
                  setFilter(narrow(filter, `${fieldText(c)} = ${quoted(String(value))}`));
                }}
              >
                {text}
              </button>
            ) : (
              text || <span className="faint">–</span>
            )}
          </div>
        );
      })}
    </div>
  );
}

function PhoneRow({ row, at }: { row: Row; at: string | undefined }) {
  return (
    <Link
      to="/assets/$asset"
      params={{ asset: String(row.id) }}
      search={{ at } as never}
      className="flex h-full items-center gap-2 md:hidden"
    >
      <span className="mono truncate font-semibold">{row.name ?? "no name"}</span>
      <span className="dim truncate">{[row.kind, row.place].filter(Boolean).join(" · ")}</span>
      <span className="faint ml-auto whitespace-nowrap">
        {row.last_seen ? ago(String(row.last_seen)) : ""}
      </span>
    </Link>
  );
}
