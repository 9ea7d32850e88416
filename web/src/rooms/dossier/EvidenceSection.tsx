import { useState } from "react";
import type { Sighting } from "../../api/types";
import { EvidenceMark } from "../../parts/Evidence";
import { moment, plural } from "../../parts/format";
import { Section } from "./Sections";

const FIRST = 6;

/** The sightings behind the dossier: who read what, how long it took, and what was cut short. */
export function EvidenceSection({ sightings }: { sightings: Sighting[] }) {
  const [all, setAll] = useState(false);
  const shown = all ? sightings : sightings.slice(0, FIRST);
  return (
    <Section id="evidence" title="Evidence" flush>
      <ul className="text-[13px]">
        {shown.map((s) => {
          const cut = s.readings.filter((r) => !r.complete && s.source_kind !== "hand");
          const notes = s.readings.filter((r) => r.note && r.complete);
          return (
            <li key={s.document} className="border-b border-[var(--line-2)] px-3.5 py-1.5">
              <details>
                <summary className="flex cursor-pointer items-baseline gap-2">
                  <EvidenceMark kind={s.source_kind} />
                  <span className="whitespace-nowrap">{moment(s.at)}</span>
                  <span className="dim min-w-0 truncate">{s.source}</span>
                  <span className="faint ml-auto whitespace-nowrap">
                    {plural(s.readings.length, "reading")}
                  </span>
                  {cut.length > 0 && <span className="tag warn">cut short</span>}
                </summary>
                <div className="dim mt-1 pl-5 text-[12.5px]">
                  {s.reasons.length > 0 && <p>Held to be this asset: {s.reasons.join("; ")}.</p>}
                  {s.address && (
                    <p>
                      Met at <span className="mono">{s.address}</span>.
                    </p>
                  )}
                  <ul className="mt-1 grid grid-cols-[1fr_1fr_auto] gap-x-3">
                    {s.readings.map((r, i) => (
                      <li key={i} className="contents">
                        <span>{r.section}</span>
                        <span className="mono">{r.collector}</span>
                        <span className="num">{r.took_ms !== null ? `${r.took_ms} ms` : ""}</span>
                      </li>
                    ))}
                  </ul>
                  {[...cut, ...notes].map((r, i) => (
                    <p key={i}>
                      {r.section}: {r.note}
                    </p>
                  ))}
                  <a
                    className="link-quiet"
                    href={`/api/sightings/${s.document}`}
                    target="_blank"
                    rel="noreferrer"
                  >
                    The document as it came
                  </a>
                </div>
              </details>
            </li>
          );
        })}
      </ul>
      {!all && sightings.length > FIRST && (
        <button
          type="button"
          className="link-quiet px-3.5 py-2 text-[13px] font-semibold"
          onClick={() => setAll(true)}
        >
          Show all {sightings.length}
        </button>
      )}
    </Section>
  );
}
