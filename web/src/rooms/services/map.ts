import { useQuery } from "@tanstack/react-query";
import { asks } from "../../api/asking";

/** The picture of what a selection serves and stands on. */
export function useMap(filter: string, at: string | undefined, unfold: number[] = []) {
  return useQuery({
    ...asks("/api/services/map", { params: { query: { filter, unfold, as_of: at } } }),
    placeholderData: (before) => before,
  });
}
