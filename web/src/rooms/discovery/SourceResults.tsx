import type { Schemas } from "../../api/client";
import { count, duration, moment, plural } from "../../parts/format";

type Sync = Schemas["SyncOut"];
type Test = Schemas["TestOut"];

/** What a source would bring: a sample, and what of it could not be read. */
export function TestResult({ test }: { test: Test }) {
  const columns = [...new Set(test.sample.flatMap((r) => Object.keys(r.facts)))].slice(0, 8);
  return (
    <section className="sheet min-w-0 overflow-hidden" aria-labelledby="test-title">
      <h2 id="test-title" className="dim px-3.5 pt-2.5 pb-1.5 text-[12px] font-semibold">
        What it would bring
      </h2>
      {test.problem ? (
        <p role="alert" className="px-3.5 pb-3 text-[13px]">
          <b className="text-error">{test.problem}</b> <span className="dim">{test.remedy}</span>
        </p>
      ) : (
        <p className="px-3.5 pb-2 text-[13px]" role="status">
          {plural(test.found, "device")} in {test.took_ms} ms; nothing was stored. The first{" "}
          {test.sample.length}:
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
                <th>Called</th>
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
export function Syncs({ syncs }: { syncs: Sync[] }) {
  return (
    <section className="sheet" aria-labelledby="syncs-title">
      <h2 id="syncs-title" className="dim px-3.5 pt-2.5 pb-1.5 text-[12px] font-semibold">
        Syncs
      </h2>
      {syncs.length === 0 && <p className="dim px-3.5 pb-3 text-[13px]">None yet.</p>}
      <ul>
        {syncs.map((s) => (
          <li key={s.id} className="border-t border-base-300 px-3.5 py-2 text-[13px]">
            <span className={`tag ${s.state === "done" ? "ok" : s.state === "failed" ? "bad" : "note"}`}>
              {s.state}
            </span>{" "}
            {moment(new Date(s.made_at * 1000).toISOString())}
            {s.ended_at ? ` · ${duration(s.ended_at - s.made_at)}` : ""}
            {s.since ? " · only what had changed" : ""}
            {" · "}
            {Object.entries(s.counts)
              .map(([what, n]) => `${count(n)} ${what}`)
              .join(", ")}
            {s.message && <p className="font-semibold text-error">{s.message}</p>}
            {s.faults.length > 0 && (
              <details>
                <summary className="dim">{plural(s.faults.length, "value")} could not be read</summary>
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
