import { useNavigate } from "@tanstack/react-router";
import { client, ok } from "../../api/client";
import { useDone } from "../../parts/Sheet";
import { t } from "../../words";
import type { Card } from "./answers";

/** Keep a card's question as a report, and go there. */
export function useKeepAsReport() {
  const done = useDone("reports");
  const navigate = useNavigate();
  return (card: Card) =>
    done(
      async () => {
        const names = card.columns.length > 0 ? card.columns : ["name", "kind", "place", "person"];
        const columns = [...new Set([...names, ...(card.by && card.by !== "evidence" ? [card.by] : [])])];
        const made = await ok(
          client.POST("/api/reports/composed", {
            body: {
              name: card.title || "A card",
              text: "",
              room: t("Estate"),
              access: "own",
              definition: { row: "asset", filter: card.filter, columns: columns.map((field) => ({ field })) },
            },
          }),
        );
        void navigate({ to: "/reports/$report", params: { report: String(made.key) }, search: {} });
      },
      t("“{{title}}” is a report now.", { title: card.title }),
    );
}
