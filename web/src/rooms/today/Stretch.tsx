import { type KeyboardEvent, type PointerEvent, useState } from "react";
import { t } from "../../words";
import type { Card } from "./answers";

/** What a card takes of the board, in its fields. */
export interface Size {
  wide: number;
  high: number;
}

/** The most a card takes (as the server holds it to). */
const MOST: Size = { wide: 4, high: 3 };
const within = (fields: number, most: number) => Math.min(most, Math.max(1, Math.round(fields)));

/** The board's fields as drawn now: how many stand side by side, and how big one is with the gap after it (pixels). */
function fieldsOf(board: HTMLElement) {
  const style = getComputedStyle(board);
  const gap = Number.parseFloat(style.columnGap) || 0;
  const columns = style.gridTemplateColumns.split(" ").length;
  const low = Number.parseFloat(style.gridAutoRows.match(/[\d.]+/)?.[0] ?? "") || 1;
  return { columns, across: (board.clientWidth + gap) / columns, down: low + gap, gap };
}

const STEPS: Record<string, Size> = {
  ArrowRight: { wide: 1, high: 0 },
  ArrowLeft: { wide: -1, high: 0 },
  ArrowDown: { wide: 0, high: 1 },
  ArrowUp: { wide: 0, high: -1 },
};

interface Props {
  card: Card;
  /** Show the card at a size while it is pulled; null: as it is kept. */
  show: (size: Size | null) => void;
  keep: (size: Size) => void;
}

/** The corner a card is pulled bigger or smaller by, field by field: with a pointer, or with the arrow keys. */
export function Stretch({ card, show, keep }: Props) {
  const [pulled, setPulled] = useState<Size | null>(null);
  const settle = (size: Size | null) => {
    setPulled(size);
    show(size);
  };
  const pull = (event: PointerEvent<HTMLButtonElement>) => {
    const place = event.currentTarget.closest("li");
    if (!place?.parentElement || !event.currentTarget.hasPointerCapture(event.pointerId)) return;
    const { columns, across, down, gap } = fieldsOf(place.parentElement);
    const corner = place.getBoundingClientRect();
    settle({
      wide: within((event.clientX - corner.left + gap) / across, Math.min(MOST.wide, columns)),
      high: within((event.clientY - corner.top + gap) / down, MOST.high),
    });
  };
  const letGo = () => {
    if (pulled && (pulled.wide !== card.wide || pulled.high !== card.high)) keep(pulled);
    settle(null);
  };
  const press = (event: KeyboardEvent) => {
    const step = STEPS[event.key];
    if (event.key === "Escape") settle(null);
    if (!step) return;
    event.preventDefault();
    const next = {
      wide: within(card.wide + step.wide, MOST.wide),
      high: within(card.high + step.high, MOST.high),
    };
    if (next.wide !== card.wide || next.high !== card.high) keep(next);
  };
  const size = pulled ?? card;
  return (
    <button
      type="button"
      className="absolute right-0 bottom-0 size-5 cursor-nwse-resize touch-none rounded-br-[inherit] border-0 bg-transparent text-[var(--ink-3)]"
      aria-label={t("Size of {{title}}: {{wide}} wide, {{high}} high; arrow keys change it", {
        title: card.title || card.key,
        wide: size.wide,
        high: size.high,
      })}
      title={t("Pull to make it bigger or smaller")}
      onPointerDown={(e) => e.currentTarget.setPointerCapture(e.pointerId)}
      onPointerMove={pull}
      onPointerUp={letGo}
      onPointerCancel={() => settle(null)}
      onKeyDown={press}
    >
      <svg viewBox="0 0 20 20" className="size-5" aria-hidden="true">
        <path d="M15 8v7H8" fill="none" stroke="currentColor" strokeWidth="1.5" />
      </svg>
    </button>
  );
}
