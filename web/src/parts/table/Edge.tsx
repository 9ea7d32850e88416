import { t } from "../../words";
export const NARROWEST = 56;
const STEP = 16;

/** The edge of a heading: dragged, or moved by arrows; a double click gives the width back. */
export function Edge(props: {
  label: string;
  size: (px: number | null) => void;
  /** Left out where the heading itself is sized by key. */
  silent?: boolean;
}) {
  const { label, size, silent } = props;
  const width = (edge: HTMLElement) => edge.parentElement?.getBoundingClientRect().width ?? NARROWEST;
  return (
    <hr
      aria-orientation="vertical"
      aria-label={silent ? undefined : t("Width of {{label}}", { label })}
      aria-valuenow={0}
      tabIndex={silent ? -1 : 0}
      aria-hidden={silent}
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

/** What makes a heading movable: dragged onto another, or by Alt and an arrow; with Shift as well it is sized. */
export function movable(
  dragged: React.RefObject<string | null>,
  column: string,
  place: number,
  move: (column: string, to: number) => void,
  size?: (px: number) => void,
) {
  return {
    draggable: true,
    onDragStart: () => {
      dragged.current = column;
    },
    onDragOver: (e: React.DragEvent) => e.preventDefault(),
    onDrop: (e: React.DragEvent) => {
      e.preventDefault();
      if (dragged.current) move(dragged.current, place);
      dragged.current = null;
    },
    onKeyDown: (e: React.KeyboardEvent) => {
      const by = e.key === "ArrowLeft" ? -1 : e.key === "ArrowRight" ? 1 : 0;
      if (!e.altKey || !by) return;
      e.preventDefault();
      e.stopPropagation();
      if (e.shiftKey && size)
        size(Math.max(NARROWEST, e.currentTarget.getBoundingClientRect().width + by * STEP));
      else move(column, place + by);
    },
  };
}

/** Put one of a list in the place of another. */
export function moved(list: string[], one: string, to: number): string[] {
  const rest = list.filter((c) => c !== one);
  rest.splice(Math.max(0, Math.min(rest.length, to)), 0, one);
  return rest;
}
