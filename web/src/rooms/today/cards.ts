import { t } from "../../words";
import type { Answer, Card } from "./answers";

/** How each sort of card may be shown. */
export const WAYS: Record<Card["of"], readonly Card["shown"][]> = {
  question: ["figure", "bars", "ring", "stacked", "heat", "line", "list", "map"],
  report: ["figure", "bars", "ring", "list"],
  text: ["text"],
};

/** A card as one begins it. */
export const BLANK: Card = {
  key: "",
  title: "",
  of: "question",
  shown: "bars",
  filter: "",
  whole: "",
  report: "",
  text: "",
  by: "kind",
  and_by: "",
  sum: "",
  columns: [],
  days: 90,
  at: "",
  wide: 1,
  high: 1,
};

/** A name for a card that no other has. */
export const newKey = () => `card-${Date.now().toString(36)}${Math.floor(Math.random() * 1296).toString(36)}`;

/** Whether a question's devices can be kept as a report. */
export const asReport = (card: Card) => card.of === "question";

/** What a card shows, as the lines of a file. */
export function linesOf(card: Card, answer: Answer | undefined): { columns: object[]; rows: unknown[][] } {
  const text = (name: string, label: string) => ({ name, label, type: "text" });
  const number = (name: string, label: string) => ({ name, label, type: "number" });
  if (!answer) return { columns: [], rows: [] };
  if (answer.rows.length > 0) return { columns: answer.columns, rows: answer.rows };
  if (card.shown === "line" || card.shown === "figure")
    return answer.points.length > 0
      ? {
          columns: [{ name: "day", label: t("Day"), type: "day" }, number("count", t("Count"))],
          rows: answer.points.map((p) => [p.day.slice(0, 10), p.count]),
        }
      : { columns: [number("count", card.title || t("Count"))], rows: [[answer.amount ?? answer.count]] };
  if (answer.parts.some((p) => p.parts.length > 0))
    return {
      columns: [text("part", card.by), text("inner", card.and_by), number("count", t("Count"))],
      rows: answer.parts.flatMap((p) => p.parts.map((q) => [p.label, q.label, q.count])),
    };
  return {
    columns: [text("part", card.by || t("Part")), number("count", t("Count"))],
    rows: answer.parts.map((p) => [p.label, p.count]),
  };
}
