import { useQuery, useQueryClient } from "@tanstack/react-query";
import { client, ok, type Schemas } from "../../api/client";
import { t } from "../../words";

export type Card = Schemas["CardOut"];
export type Answer = Schemas["CardAnswer"];

const PATH = "/api/boards/answers";
/** How often a wall asks anew. */
export const ANEW = 60_000;

/** What a card asks, without how it is called and where it stands: by that its answer is known. */
const asking = ({ title, wide, high, ...card }: Card) => card;
export const known = (card: Card) => JSON.stringify(asking(card));

/**
 * What the cards of a board show, by what they ask. They are answered together; those that wait are asked for again, and
 * what is there is shown meanwhile.
 */
export function useAnswers(cards: Card[], at: string | undefined) {
  const queries = useQueryClient();
  const asked = cards.filter((c) => c.of !== "text");
  const queryKey = [PATH, { cards: asked.map(asking), at }] as const;
  return useQuery({
    queryKey,
    enabled: asked.length > 0,
    refetchInterval: ANEW,
    placeholderData: (before) => before,
    queryFn: async () => {
      const met: Record<string, Answer> = {};
      let left = asked;
      while (left.length > 0) {
        const body = { cards: left.map(asking) as unknown as Record<string, unknown>[], as_of: at ?? null };
        const told = await ok(client.POST(PATH, { body }));
        left.forEach((card, n) => {
          const one = told[n];
          if (one && !one.waits) met[known(card)] = one;
        });
        const waiting = left.filter((c) => !met[known(c)]);
        if (waiting.length === left.length) throw new Error(t("The cards do not answer."));
        left = waiting;
        if (left.length > 0) queries.setQueryData(queryKey, { ...met });
      }
      return met;
    },
  });
}
