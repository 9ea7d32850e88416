import { useQueryClient } from "@tanstack/react-query";
import { useEffect, useState } from "react";
import { account } from "../../api/account";
import { client } from "../../api/client";
import { forget, here, lastHere, type Person } from "./store";

/** Who uses the pocket: as Tarn says; without signal who was signed in here last. `away`: Tarn does not answer. */
export interface Session {
  person: Person | null | undefined;
  away: boolean;
}

const AGAIN = 15_000;

export function useSession(): Session {
  const [session, setSession] = useState<Session>({ person: undefined, away: false });
  useEffect(() => {
    let over = false;
    const ask = async () => {
      try {
        const { data, response } = await client.GET("/api/me");
        const me = data ? { username: data.username, full_name: data.full_name } : null;
        if (response.ok && me) await here(me);
        if (!over) setSession({ person: response.ok ? me : null, away: false });
      } catch {
        const kept = (await lastHere()) ?? null;
        if (!over) setSession({ person: kept, away: true });
      }
    };
    void ask();
    const timer = setInterval(() => void ask(), AGAIN);
    const soon = () => void ask();
    window.addEventListener("online", soon);
    window.addEventListener("offline", soon);
    return () => {
      over = true;
      clearInterval(timer);
      window.removeEventListener("online", soon);
      window.removeEventListener("offline", soon);
    };
  }, []);
  return session;
}

/** Sign out and leave nothing on the phone. Raises where Tarn does not answer: one is signed in still. */
export function useSignOut(): () => Promise<void> {
  const queries = useQueryClient();
  return async () => {
    await account("DELETE", "/auth/session");
    await forget();
    queries.clear();
    window.location.assign("/sign-in?to=/pocket");
  };
}

/** Let the pocket open without signal: its page and the files it has loaded are kept. */
export async function keepFiles(): Promise<void> {
  if (!("serviceWorker" in navigator)) return;
  await navigator.serviceWorker.register("/sw.js", { scope: "/" });
  const ready = await navigator.serviceWorker.ready;
  const files = performance
    .getEntriesByType("resource")
    .map((entry) => entry.name)
    .filter((name) => name.startsWith(`${window.location.origin}/static/assets/`));
  ready.active?.postMessage({ keep: [...new Set(files)] });
}
