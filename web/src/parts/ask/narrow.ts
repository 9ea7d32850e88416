import type { Schemas } from "../../api/client";
import { client, ok } from "../../api/client";
import { t } from "../../words";
import { sayRefused } from "../refusal";

type How = Schemas["NarrowIn"]["how"];

/** How a question is narrowed by a condition, widened again, or rid of what it asks for: the server writes it. */
export function useNarrow(filter: string, change: (filter: string) => void) {
  return async (condition: string, how: How = "narrow") => {
    try {
      const made = await ok(client.POST("/api/filter/narrowed", { body: { filter, condition, how } }));
      change(made.text);
    } catch (error) {
      sayRefused(error, t("The question was not changed: no answer came."));
    }
  };
}
