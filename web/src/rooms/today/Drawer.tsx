import { Dialog } from "../../parts/Dialog";
import { t } from "../../words";
import type { Card } from "./answers";

interface Props {
  cards: Card[];
  put: (card: Card) => void;
  close: () => void;
}

/** The cards that are not on the board: those taken off it, and those that ship. */
export function Drawer({ cards, put, close }: Props) {
  return (
    <Dialog title={t("Drawer")} close={close}>
      <p className="dim pb-2 text-[13px]">
        {t("Cards that were taken off, and those that ship. None is ever lost.")}
      </p>
      <ul className="max-h-[55vh] overflow-auto">
        {cards.map((card) => (
          <li
            key={card.key}
            className="flex items-baseline gap-3 border-b border-base-300 py-1.5 last:border-0"
          >
            <span className="min-w-0 flex-1">
              {card.title || card.key}
              <span className="faint ml-2 text-[12px]">{card.shown}</span>
            </span>
            <button
              type="button"
              className="btn btn-sm"
              aria-label={t("Put it up: {{title}}", { title: card.title || card.key })}
              onClick={() => {
                close();
                put(card);
              }}
            >
              {t("Put it up")}
            </button>
          </li>
        ))}
      </ul>
    </Dialog>
  );
}
