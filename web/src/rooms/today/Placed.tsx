import { useSortable } from "@dnd-kit/sortable";
import { CSS } from "@dnd-kit/utilities";
import { GripVertical } from "lucide-react";
import { useState } from "react";
import { postFile } from "../../api/client";
import { closeMenu, Menu } from "../../parts/Menu";
import { sayRefused } from "../../parts/refusal";
import { t } from "../../words";
import type { Answer, Card } from "./answers";
import { CardShown } from "./CardShown";
import { asReport, linesOf, WAYS } from "./cards";
import { type Size, Stretch } from "./Stretch";
import { useKeepAsReport } from "./useKeepAsReport";

/** How far a card reaches over the columns there are; a board has one, two or four by the room it is given. */
const ACROSS: Record<number, string> = {
  1: "",
  2: "@xl:col-span-2",
  3: "@xl:col-span-2 @6xl:col-span-3",
  4: "@xl:col-span-2 @6xl:col-span-4",
};
const DOWN: Record<number, string> = { 1: "", 2: "row-span-2", 3: "row-span-3" };

interface Props {
  card: Card;
  /** The card as it is asked now, narrowed in place. */
  asked: Card;
  answer: Answer | undefined;
  at: string | undefined;
  narrow: string;
  narrowTo: (text: string) => void;
  change: (card: Card) => Promise<void>;
  edit: () => void;
  off: () => void;
}

/** A card in its place on the board: dragged by its handle, by pointer or keys, and what can be done with it. */
export function Placed({ card, asked, answer, at, narrow, narrowTo, change, edit, off }: Props) {
  const { setNodeRef, transform, transition, attributes, listeners, isDragging } = useSortable({
    id: card.key,
  });
  const [pulled, setPulled] = useState<Size | null>(null);
  const size = pulled ?? card;
  const keepReport = useKeepAsReport();
  const act = (what: () => unknown) => () => {
    closeMenu(t("This card"), card.key);
    void what();
  };
  const file = async () => {
    try {
      await postFile("/api/reports/listed/csv", { name: card.title || card.key, ...linesOf(asked, answer) });
    } catch (error) {
      sayRefused(error, t("The file could not be written."));
    }
  };
  const actions: [string, () => unknown][] = [
    [t("Change …"), edit],
    ...(answer && card.of !== "text" ? ([[t("As CSV"), file]] as [string, () => unknown][]) : []),
    ...(asReport(card)
      ? ([[t("Keep as a report"), () => keepReport(asked)]] as [string, () => unknown][])
      : []),
    [t("Take it off"), off],
  ];
  return (
    <li
      ref={setNodeRef}
      style={{ transform: CSS.Translate.toString(transform), transition }}
      className={`sheet relative flex min-w-0 flex-col ${ACROSS[size.wide]} ${DOWN[size.high]} ${isDragging || pulled ? "z-10 shadow-lg" : ""}`}
    >
      <div className="flex items-center gap-1 px-3.5 pt-2 pb-1">
        <h3 className="min-w-0 flex-1 truncate text-[13px] font-semibold">{card.title || card.key}</h3>
        {card.at && <span className="tag">{t("as of {{at}}", { at: card.at })}</span>}
        {narrow && (
          <button
            type="button"
            className="tag mono max-w-40 truncate"
            title={t("Only {{narrow}}; a click shows all again", { narrow })}
            onClick={() => narrowTo("")}
          >
            {narrow} ×
          </button>
        )}
        <button
          type="button"
          {...attributes}
          {...listeners}
          className="btn btn-ghost btn-xs cursor-grab touch-none px-1 text-[var(--ink-3)]"
          aria-label={t("Move {{title}}", { title: card.title || card.key })}
        >
          <GripVertical size={14} aria-hidden />
        </button>
        <Menu label={t("This card")} of={card.key} icon={<span aria-hidden="true">⋯</span>}>
          {card.of !== "text" && (
            <label className="block px-2 pb-1.5 text-[13px]">
              <span className="faint block pb-0.5 text-[12px]">{t("Shown as")}</span>
              <select
                className="select select-sm w-full"
                value={card.shown}
                onChange={(e) => act(() => change({ ...card, shown: e.target.value as Card["shown"] }))()}
              >
                {WAYS[card.of]
                  .filter((way) => way === card.shown || fits(card, way))
                  .map((way) => (
                    <option key={way}>{way}</option>
                  ))}
              </select>
            </label>
          )}
          {card.of === "question" && (
            <form
              className="px-2 pb-1.5 text-[13px]"
              onSubmit={(e) => {
                e.preventDefault();
                closeMenu(t("This card"), card.key);
                narrowTo(String(new FormData(e.currentTarget).get("narrow") ?? "").trim());
              }}
            >
              <label className="block">
                <span className="faint block pb-0.5 text-[12px]">{t("Narrowed here, and not kept")}</span>
                <input
                  name="narrow"
                  defaultValue={narrow}
                  className="input input-sm mono w-full"
                  placeholder="place = Saltholm"
                />
              </label>
            </form>
          )}
          {actions.map(([label, what]) => (
            <button
              key={label}
              type="button"
              className="btn btn-ghost btn-sm w-full justify-start"
              onClick={act(what)}
            >
              {label}
            </button>
          ))}
        </Menu>
      </div>
      <CardShown card={asked} answer={answer} at={at} />
      <Stretch card={card} show={setPulled} keep={(next) => void change({ ...card, ...next })} />
    </li>
  );
}

/** Whether a card can be shown another way as it is. */
function fits(card: Card, way: Card["shown"]): boolean {
  if (way === "bars") return card.by !== "";
  if (way === "ring") return card.by !== "" || card.whole !== "";
  return way === "stacked" || way === "heat" ? card.by !== "" && card.and_by !== "" : true;
}
