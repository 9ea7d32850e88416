import { useQuery } from "@tanstack/react-query";
import { asks } from "../api/asking";

import type { Registry } from "../api/types";

export type ListColumn = Registry["lists"][number]["columns"][number];

/** What Tarn says of its own fields and lists: asked for once, it changes with a release or a field of one's own. */
export function useRegistry() {
  return useQuery({
    ...asks("/api/fields"),
    staleTime: Number.POSITIVE_INFINITY,
  });
}
