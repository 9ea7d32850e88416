import { useRef } from "react";
import type { FieldInfo } from "../../api/types";
import { NUMBERS } from "./Cells";

const NARROWEST = 56;
const STEP = 16;

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
          aria-label={ticked === "all" ? "Untick all" : "Tick all that answer"}
          title={ticked === "all" ? "Untick all" : "Tick all that answer, over all pages"}
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
        const label = c === "last_seen" ? "Seen" : c === "evidence" ? "Evidence" : (field?.label ?? c);
        return (
          <div
            key={c}
            role="columnheader"
            aria-sort={on ? (down ? "descending" : "ascending") : "none"}
            className={`group relative px-2 py-1.5 ${place === 0 ? "frozen frozen-first" : ""}`}
            draggable
            onDragStart={() => {
              dragged.current = c;
            }}
            onDragOver={(e) => e.preventDefault()}
            onDrop={(e) => {
              e.preventDefault();
              if (dragged.current) move(dragged.current, place);
              dragged.current = null;
            }}
            onKeyDown={(e) => {
              const by = e.key === "ArrowLeft" ? -1 : e.key === "ArrowRight" ? 1 : 0;
              if (!e.altKey || !by) return;
              e.preventDefault();
              e.stopPropagation();
              move(c, place + by);
            }}
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

/** The edge of a heading: dragged, or moved by arrows; a double click gives the width back. */
function Edge({ label, size }: { label: string; size: (px: number | null) => void }) {
  const width = (edge: HTMLElement) => edge.parentElement?.getBoundingClientRect().width ?? NARROWEST;
  return (
    <hr
      aria-orientation="vertical"
      aria-label={`Width of ${label}`}
      aria-valuenow={0}
      tabIndex={0}
      className="absolute inset-y-0 right-0 m-0 h-auto w-[7px] cursor-col-resize border-0 border-r-2 border-transparent hover:border-primary focus-visible:border-primary"
      onDoubleClick={() => size(null)}
      onKeyDown={(e) => {
        const by = e.key === "ArrowLeft" ? -STEP : e.key === "ArrowRight" ? STEP : 0;
        if (!by || e.altKey) return;
        e.preventDefault();
        e.stopPropagation();
        size(Math.max(NARROWEST, width(e.currentTarget) + by));
      }}
      onPointerDown={(e) => {
        e.preventDefault();
        const edge = e.currentTarget;
        const begun = { x: e.clientX, px: width(edge) };
        edge.setPointerCapture(e.pointerId);
        const drag = (now: PointerEvent) => size(Math.max(NARROWEST, begun.px + now.clientX - begun.x));
        edge.addEventListener("pointermove", drag);
        edge.addEventListener("lostpointercapture", () => edge.removeEventListener("pointermove", drag), {
          once: true,
        });
      }}
      draggable
      onDragStart={(e) => {
        e.preventDefault();
        e.stopPropagation();
      }}
    />
  );
}
