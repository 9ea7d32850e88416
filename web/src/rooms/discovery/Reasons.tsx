import { useQuery, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { toast } from "sonner";
import { asks, under } from "../../api/asking";
import { client, ok, type Schemas } from "../../api/client";
import { useDial } from "../../parts/dial";
import { iso, moment, plural } from "../../parts/format";
import { useMay } from "../../parts/me";
import { sayRefused } from "../../parts/refusal";
import { t } from "../../words";
import { TrialForm } from "./TrialForm";

type Run = Schemas["RunOut"];
type Reason = Schemas["ReasonOut"];

const SHOWN = 6;

/** Why addresses were not fully read, grouped, each with what can be done about all of them at once. */
export function Reasons({ run, reasons }: { run: Run; reasons: Reason[] }) {
  const queries = useQueryClient();
  const maySweep = useMay("sweep");
  const mayPlan = useMay("plan");
  const { past } = useDial();
  const [all, setAll] = useState(false);
  const [tried, setTried] = useState<Reason | null>(null);
  const credentials = useQuery(asks("/api/credentials"));
  if (reasons.length === 0) return null;
  const ended = ["done", "stopped", "failed", "paused"].includes(run.state);
  const act = async (what: Promise<unknown>, said: string) => {
    try {
      await what;
      toast.success(said);
      await queries.invalidateQueries(under("runs"));
      await queries.invalidateQueries(under("sweeps"));
    } catch (error) {
      sayRefused(error, t("It could not be done."));
    }
  };
  const again = (r: Reason) =>
    act(
      ok(
        client.POST("/api/runs/{number}/again", {
          params: { path: { number: run.id } },
          body: { addresses: r.addresses },
        }),
      ),
      t("{{addresses}} will be read again.", { addresses: plural(r.count, "address", "addresses") }),
    );
  const exclude = (r: Reason) =>
    act(
      ok(
        client.POST("/api/sweeps/{number}/exclude", {
          params: { path: { number: run.sweep } },
          body: { addresses: r.addresses },
        }),
      ),
      t("{{addresses}} left out of “{{name}}” from now on; the audit trail can undo it.", {
        addresses: plural(r.count, "address", "addresses"),
        name: run.name,
      }),
    );
  const credential = credentials.data?.find((c) => c.id === tried?.credential);
  return (
    <section className="sheet mb-3" aria-label={t("Reasons")}>
      <ul>
        {reasons.slice(0, all ? undefined : SHOWN).map((r) => (
          <li
            key={r.code + r.reason}
            className="grid grid-cols-[44px_1fr] items-baseline gap-x-3 border-b border-base-300 px-3.5 py-2 text-[13px] last:border-0 md:grid-cols-[44px_1fr_auto]"
          >
            <b className="text-right text-[15px] tabular-nums">{r.count}</b>
            <span>
              {r.reason} <span className="dim">{r.remedy}</span>
            </span>
            {maySweep && !past && (
              <span className="col-start-2 flex gap-3 whitespace-nowrap md:col-start-3">
                {r.credential !== null && (
                  <button type="button" className="link-quiet font-semibold" onClick={() => setTried(r)}>
                    {t("Try it")}
                  </button>
                )}
                {ended && (
                  <button type="button" className="link-quiet font-semibold" onClick={() => again(r)}>
                    {t("Read again")}
                  </button>
                )}
                {mayPlan && (
                  <button type="button" className="link-quiet font-semibold" onClick={() => exclude(r)}>
                    {t("Leave out")}
                  </button>
                )}
              </span>
            )}
          </li>
        ))}
      </ul>
      {reasons.length > SHOWN && (
        <button
          type="button"
          className="link-quiet px-3.5 py-2 text-[13px] font-semibold"
          onClick={() => setAll(!all)}
        >
          {all ? t("Fewer") : t("{{reasons}} more reasons", { reasons: reasons.length - SHOWN })}
        </button>
      )}
      {tried && credential && (
        <TrialForm
          credential={credential}
          route={run.route}
          address={tried.addresses[0]}
          close={() => setTried(null)}
        />
      )}
    </section>
  );
}

/** What changed against the run before: which addresses came, went, were read worse or better. */
export function Compared({ compared }: { compared: Schemas["ComparedOut"] }) {
  const changes = Object.entries(compared.changes).filter(([, addresses]) => addresses.length > 0);
  const when = compared.ended_at ? moment(iso(compared.ended_at)) : "";
  return (
    <p className="pb-2 text-[13px]">
      <span className="dim">{t("Against the run of {{when}}:", { when })} </span>
      {changes.length === 0
        ? t("nothing came, went, or was read better or worse.")
        : changes.map(([what, addresses], i) => (
            <span key={what} title={addresses.join(", ")}>
              {i > 0 && " · "}
              <b className="tabular-nums">{addresses.length}</b> {what}
              {addresses.length <= 3 && <span className="mono dim"> {addresses.join(", ")}</span>}
            </span>
          ))}
    </p>
  );
}
