import type { Schemas } from "../../api/client";
import { client, ok } from "../../api/client";
import { count, duration, iso, moment, plural } from "../../parts/format";
import { useMay } from "../../parts/me";
import { useDone } from "../../parts/Sheet";
import { t } from "../../words";

type Run = Schemas["FeedRunOut"];

const WORDS: Record<string, string> = { part: t("not complete"), held: t("waits for a yes") };

export function RunState({ state }: { state: string }) {
  const tone = { done: "ok", failed: "bad", part: "warn", held: "warn" }[state] ?? "note";
  return <span className={`tag ${tone} whitespace-nowrap`}>{WORDS[state] ?? state}</span>;
}

/** How many documents were refused, in words where some were. */
export function refusedOf(run: Run) {
  const refused = run.counts.refused ?? 0;
  return refused ? (
    <b className="text-error">{count(refused)}</b>
  ) : (
    <span className="faint">{t("none")}</span>
  );
}

/** The readings of a feed: what each came to, what was refused and why, and what waits for a yes. */
export function Runs({ runs }: { runs: Run[] }) {
  return (
    <section className="sheet" aria-labelledby="runs-title">
      <h2 id="runs-title" className="dim px-3.5 pt-2.5 pb-1.5 text-[12px] font-semibold">
        {t("Readings")}
      </h2>
      {runs.length === 0 && <p className="dim px-3.5 pb-3 text-[13px]">{t("None yet.")}</p>}
      <ul>
        {runs.map((r) => (
          <li key={r.id} className="border-t border-base-300 px-3.5 py-2 text-[13px]">
            <RunState state={r.state} /> {moment(iso(r.made_at))}
            {r.ended_at ? ` · ${duration(r.ended_at - r.made_at)}` : ""}
            {" · "}
            {Object.entries(r.counts)
              .filter(([what]) => what !== "accepted")
              .map(([what, n]) => `${count(n)} ${what}`)
              .join(", ")}
            {r.loss && <Loss run={r} loss={r.loss} />}
            {r.message && <p className="font-semibold text-error">{r.message}</p>}
            {r.faults.length > 0 && (
              <details>
                <summary className="dim">
                  {t("{{things}} refused or left aside", { things: plural(r.faults.length, "thing") })}
                </summary>
                <ul className="pt-1">
                  {r.faults.map((f) => (
                    <li key={`${f.place}${f.rule}`} className="py-0.5">
                      <span className="mono break-all">{f.place}</span> <span className="dim">{f.rule}</span>
                    </li>
                  ))}
                </ul>
              </details>
            )}
          </li>
        ))}
      </ul>
    </section>
  );
}

/** More would be taken back than the feed may by itself. */
function Loss({ run, loss }: { run: Run; loss: Record<string, number> }) {
  const done = useDone();
  const mayPlan = useMay("plan");
  const yes = () => ok(client.POST("/api/feed-runs/{number}/loss", { params: { path: { number: run.id } } }));
  return (
    <div className="tag warn !my-1 !block !whitespace-normal !px-3 !py-2">
      {t(
        "It withdraws {{withdrawn}} of {{documents}} at once. Nothing of that was taken in: either their publisher takes them back, or the feed is broken.",
        { withdrawn: count(loss.withdrawn ?? 0), documents: plural(loss.of ?? 0, "document") },
      )}
      {mayPlan && (
        <button
          type="button"
          className="link-quiet ml-2 font-semibold"
          onClick={() => void done(yes, t("The feed is read anew, and what it withdraws is taken back."))}
        >
          {t("Take them back")}
        </button>
      )}
    </div>
  );
}
