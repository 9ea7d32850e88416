import { useQueryClient } from "@tanstack/react-query";
import { under } from "../../api/asking";
import { client, ok, type Schemas } from "../../api/client";
import { useDraft } from "../../parts/draft";
import { count, duration, iso, moment, plural } from "../../parts/format";
import { useMay } from "../../parts/me";
import { t, word } from "../../words";

type Sync = Schemas["SyncOut"];
type Source = Schemas["SourceOut"];
type Test = Schemas["TestOut"];

/** What a source would bring: a sample, and what of it could not be read. */
export function TestResult({ test }: { test: Test }) {
  const columns = [...new Set(test.sample.flatMap((r) => Object.keys(r.facts)))].slice(0, 8);
  return (
    <section className="sheet min-w-0 overflow-hidden" aria-labelledby="test-title">
      <h2 id="test-title" className="dim px-3.5 pt-2.5 pb-1.5 text-[12px] font-semibold">
        {t("What it would bring")}
      </h2>
      {test.problem ? (
        <p role="alert" className="px-3.5 pb-3 text-[13px]">
          <b className="text-error">{test.problem}</b> <span className="dim">{test.remedy}</span>
        </p>
      ) : (
        <p className="px-3.5 pb-2 text-[13px]" role="status">
          {t("{{devices}} in {{took_ms}} ms; nothing was stored. The first {{sample}}:", {
            devices: plural(test.found, "device"),
            took_ms: test.took_ms,
            sample: test.sample.length,
          })}
        </p>
      )}
      {test.faults.length > 0 && (
        <ul className="px-3.5 pb-2 text-[13px]">
          {test.faults.map((f) => (
            <li key={f.says}>
              <b className="tabular-nums">{f.count}</b> × {f.says}
            </li>
          ))}
        </ul>
      )}
      {test.sample.length > 0 && (
        <div className="overflow-x-auto">
          <table className="grid-table">
            <thead>
              <tr>
                <th>{t("Called")}</th>
                {columns.map((c) => (
                  <th key={c}>{c.replace(/_/g, " ")}</th>
                ))}
              </tr>
            </thead>
            <tbody>
              {test.sample.map((r) => (
                <tr key={r.key}>
                  <td className="mono whitespace-nowrap">{r.label}</td>
                  {columns.map((c) => (
                    <td key={c} className="whitespace-nowrap">
                      {String(r.facts[c] ?? "")}
                    </td>
                  ))}
                </tr>
              ))}
            </tbody>
          </table>
        </div>
      )}
    </section>
  );
}

/** What its syncs brought. */
export function Syncs({ syncs, source }: { syncs: Sync[]; source: Source }) {
  return (
    <section className="sheet" aria-labelledby="syncs-title">
      <h2 id="syncs-title" className="dim px-3.5 pt-2.5 pb-1.5 text-[12px] font-semibold">
        {t("Syncs")}
      </h2>
      {syncs.length === 0 && <p className="dim px-3.5 pb-3 text-[13px]">{t("None yet.")}</p>}
      <ul>
        {syncs.map((s) => (
          <li key={s.id} className="border-t border-base-300 px-3.5 py-2 text-[13px]">
            <span className={`tag ${s.state === "done" ? "ok" : s.state === "failed" ? "bad" : "note"}`}>
              {s.state === "part" ? t("not complete") : word(s.state)}
            </span>{" "}
            {moment(iso(s.made_at))}
            {s.ended_at ? ` · ${duration(s.ended_at - s.made_at)}` : ""}
            {s.since ? t(" · only what had changed") : ""}
            {" · "}
            {Object.entries(s.counts)
              .map(([what, n]) => `${count(n)} ${what}`)
              .join(", ")}
            {s.loss && <Loss sync={s} source={source} />}
            {s.message && <p className="font-semibold text-error">{s.message}</p>}
            {s.faults.length > 0 && (
              <details>
                <summary className="dim">
                  {t("{{values}} could not be read", { values: plural(s.faults.length, "value") })}
                </summary>
                <ul>
                  {s.faults.map((f) => (
                    <li key={`${f.key}${f.says}`}>
                      <span className="mono">{f.label}</span> {f.says}
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

const THEN: Record<string, string> = {
  keep: t("They stay as they are and are shown as no longer there."),
  mark: t("They are marked as missing."),
  retire: t("They are retired once they have been missing for the days set here."),
};

/** More is missing than this source may lose by itself: what it is, and what a yes would do. */
function Loss({ sync, source }: { sync: Sync; source: Source }) {
  const { attempt, rest } = useDraft({});
  const mayPlan = useMay("plan");
  const queries = useQueryClient();
  const { devices = 0, of = 0, people = 0, people_of = 0 } = sync.loss ?? {};
  const accept = async () => {
    await attempt(async () => {
      await ok(client.POST("/api/syncs/{number}/loss", { params: { path: { number: sync.id } } }));
      await queries.invalidateQueries(under("sources"));
    });
  };
  return (
    <div className="mt-1 rounded border border-warning px-3 py-2">
      <p className="font-semibold">
        {t("It names {{devices}} of {{devices2}}", {
          devices: count(devices),
          devices2: plural(of, "device"),
        })}
        {people_of > 0 &&
          t(" and {{people}} of {{people2}}", {
            people: count(people),
            people2: plural(people_of, "person", "people"),
          })}{" "}
        {t("no longer. That is more than {{loss_share}} %, so nothing was done about it.", {
          loss_share: source.loss_share,
        })}
      </p>
      <p className="dim">
        {t("If the other side really dropped them, say so.")} {THEN[source.gone]}
        {people > 0 && t(" The people count as having left.")}
      </p>
      {rest}
      {mayPlan && (
        <button type="button" className="btn btn-sm mt-1.5" onClick={accept}>
          {t("They are gone")}
        </button>
      )}
    </div>
  );
}
