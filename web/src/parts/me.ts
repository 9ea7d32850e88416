import { useQuery } from "@tanstack/react-query";
import { client, ok, type Schemas } from "../api/client";

export type Me = Schemas["Me"];

/** Who is signed in; null where nobody is. */
export function useMe() {
  return useQuery({
    queryKey: ["me"],
    queryFn: async (): Promise<Me | null> => {
      const response = await client.GET("/api/me");
      if (response.response.status === 401) return null;
      return ok(Promise.resolve(response));
    },
    staleTime: 60_000,
  });
}

export function useMay(action: string): boolean {
  return useMe().data?.may.includes(action) ?? false;
}
