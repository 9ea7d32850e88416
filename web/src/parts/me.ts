import { useQuery } from "@tanstack/react-query";
import { asks } from "../api/asking";
import { client, ok, type Schemas } from "../api/client";
import { inZone } from "./days";

export type Me = Schemas["Me"];

/** Who is signed in; null where nobody is. */
export function useMe() {
  return useQuery({
    queryKey: asks("/api/me").queryKey,
    queryFn: async (): Promise<Me | null> => {
      const me = (await ok(client.GET("/api/me"))) ?? null;
      if (me) inZone(me.zone);
      return me;
    },
    staleTime: 60_000,
  });
}

export function useMay(action: string): boolean {
  return useMe().data?.may.includes(action) ?? false;
}
