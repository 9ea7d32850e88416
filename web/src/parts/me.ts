import { useQuery } from "@tanstack/react-query";
import { asks } from "../api/asking";
import { client, ok, type Schemas } from "../api/client";
import { type Language, language, speak } from "../words";
import { inZone } from "./days";

export type Me = Schemas["Me"];

/** Who is signed in; null where nobody is. */
export function useMe() {
  return useQuery({
    queryKey: asks("/api/me").queryKey,
    queryFn: async (): Promise<Me | null> => {
      const me = (await ok(client.GET("/api/me"))) ?? null;
      if (me) inZone(me.zone);
      // What was chosen on another machine holds here too.
      if (me?.language && me.language !== language()) speak(me.language as Language);
      return me;
    },
    staleTime: 60_000,
  });
}

export function useMay(action: string): boolean {
  return useMe().data?.may.includes(action) ?? false;
}
