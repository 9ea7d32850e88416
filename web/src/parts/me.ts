import { useQuery } from "@tanstack/react-query";
import { asks } from "../api/asking";
import { client, ok, type Schemas } from "../api/client";
import { type Language, language, speak } from "../words";
import { inZone } from "./days";

export type Me = Schemas["Me"];

/** Ask who is signed in, and count days in their zone; null where nobody is. */
export async function whoIsIn(): Promise<Me | null> {
  const me = (await ok(client.GET("/api/me"))) ?? null;
  if (me) inZone(me.zone);
  return me;
}

/** What somebody chose on another machine holds here too: all is drawn anew where the language is another. */
export function speakTo(me: Me | null) {
  if (me?.language && me.language !== language()) speak(me.language as Language);
}

/** Who is signed in; null where nobody is. */
export function useMe() {
  return useQuery({
    queryKey: asks("/api/me").queryKey,
    queryFn: async () => {
      const me = await whoIsIn();
      speakTo(me);
      return me;
    },
    staleTime: 60_000,
  });
}

export function useMay(action: string): boolean {
  return useMe().data?.may.includes(action) ?? false;
}
