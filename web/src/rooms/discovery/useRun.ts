import { useQuery, useQueryClient } from "@tanstack/react-query";
import { useEffect, useState } from "react";
import { asks } from "../../api/asking";
import type { Schemas } from "../../api/client";

type RunPage = Schemas["RunPage"];
type Run = Schemas["RunOut"];
type Address = Schemas["AddressOut"];

const ENDED = ["done", "stopped", "failed"];

const runOf = (id: number) => asks("/api/runs/{number}", { params: { path: { number: id } } });

/** A run, kept live by server-sent events; a broken stream is opened again by the browser from where it stood. */
export function useRun(id: number) {
  const queries = useQueryClient();
  const [broken, setBroken] = useState(false);
  const page = useQuery({
    ...runOf(id),
    staleTime: Number.POSITIVE_INFINITY,
  });
  const state = page.data?.run.state;
  const live = state !== undefined && !ENDED.includes(state);
  const loaded = page.data !== undefined;
  useEffect(() => {
    if (!live || !loaded) return;
    const held = queries.getQueryData(runOf(id).queryKey);
    const stream = new EventSource(`/api/runs/${id}/events?after=${held?.run.tick ?? 0}`);
    const change = (edit: (page: RunPage) => RunPage) =>
      queries.setQueryData(runOf(id).queryKey, (before) => (before ? edit(before) : before));
    stream.addEventListener("run", (event) => {
      setBroken(false);
      const run = JSON.parse((event as MessageEvent<string>).data) as Run;
      // An ended head would close the stream before its last addresses have come: the end event fetches all anew.
      if (!ENDED.includes(run.state)) change((before) => ({ ...before, run }));
    });
    stream.addEventListener("addresses", (event) => {
      const rows = JSON.parse((event as MessageEvent<string>).data) as Address[];
      const byAddress = new Map(rows.map((r) => [r.address, r]));
      change((before) => ({
        ...before,
        addresses: before.addresses.map((a) => byAddress.get(a.address) ?? a),
      }));
    });
    stream.addEventListener("end", () => {
      stream.close();
      void queries.invalidateQueries({
        predicate: (q) => q.queryKey[0] !== "/api/me" && q.queryKey[0] !== "/api/fields",
      });
    });
    stream.onerror = () => setBroken(true);
    return () => stream.close();
  }, [live, loaded, id, queries]);
  return { page, broken: broken && live };
}
