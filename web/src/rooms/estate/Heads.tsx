import { useRef } from "react";
import type { FieldInfo } from "../../api/types";
import { Edge, movable } from "../../parts/table/Edge";
import { t } from "../../words";
import { NUMBERS } from "./Cells";

interface Props {
  columns: string[];
  fields: Map<string, FieldInfo>;
  sort: string;
  template: string;
  ticked: "none" | "some" | "all";
  tickAll: () => void;
  setSort: (sort: string) => void;
  /** Put a column in the place of another. */
  move: (column: string, to: number) => void;
  size: (column: string, px: number | null) => void;
}

/** The register's headings: a click sorts, dragging moves, the edge sizes; by key Alt with an arrow moves. */
export function Heads({ columns, fields, sort, template, ticked, tickAll, setSort, move, size }: Props) {
  const dragged = useRef<string | null>(null);
  return (
    <div
      role="row"
      className="sticky top-0 z-10 hidden border-b border-base-300 bg-[var(--head)] px-2 md:grid"
      style={{ gridTemplateColumns: template }}
    >
      <div role="columnheader" className="frozen pl-1">
        <input
          type="checkbox"
          className="checkbox checkbox-xs align-middle"
          aria-label={ticked === "all" ? t("Untick all") : t("Tick all that answer")}
          title={ticked === "all" ? t("Untick all") : t("Tick all that answer, over all pages")}
          tabIndex={-1}
          checked={ticked === "all"}
          ref={(box) => {
            if (box) box.indeterminate = ticked === "some";
          }}
          onChange={tickAll}
        />
      </div>
      {columns.map((c, place) => {
        const field = fields.get(c);
        const down = sort === `-${c}`;
        const on = sort === c || down;
        const right = NUMBERS.has(field?.type ?? "") || c === "last_seen";
        const label = c === "last_seen" ? t("Seen") : c === "evidence" ? t("Evidence") : (field?.label ?? c);
        return (
          <div
            key={c}
            role="columnheader"
            aria-sort={on ? (down ? "descending" : "ascending") : "none"}
            className={`group relative px-2 py-1.5 ${place === 0 ? "frozen frozen-first" : ""}`}
            {...movable(dragged, c, place, move)}
          >
            <button
              type="button"
              title={field?.meaning}
              disabled={c === "evidence"}
              onClick={() => setSort(on && !down ? `-${c}` : c)}
              className={`dim block w-full truncate text-[11.5px] font-semibold enabled:hover:underline ${right ? "text-right" : "text-left"}`}
            >
              {label}
              {on ? (down ? " ↓" : " ↑") : ""}
            </button>
            <Edge label={label} size={(px) => size(c, px)} />
          </div>
        );
      })}
    </div>
  );
}
