import { useState } from "react";
import { client, ok, type Schemas } from "../../api/client";

/** What a rule recognises of all that was ever read: as it was told at first, and anew once the rule was changed. */
export function useTried(first: Schemas["TriedOut"] | null, keys: string[]) {
  const [told, setTold] = useState<Schemas["TriedOut"] | null>(first);
  return {
    told,
    forget: () => setTold(null),
    ask: async ({ rule, version }: { rule: string; version: string }) =>
      setTold(await ok(client.POST("/api/services/recognisers/tried", { body: { rule, version, keys } }))),
  };
}
