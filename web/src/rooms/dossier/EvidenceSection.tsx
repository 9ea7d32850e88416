import { useQuery } from "@tanstack/react-query";
import { useNavigate } from "@tanstack/react-router";
import { useState } from "react";
import { asks } from "../../api/asking";
import { client, ok } from "../../api/client";
import type { Sighting } from "../../api/types";
import { useDial } from "../../parts/dial";
import { EvidenceMark } from "../../parts/Evidence";
import { moment, plural } from "../../parts/format";
import { useMay } from "../../parts/me";
import { sayRefused } from "../../parts/refusal";
import { Section } from "../../parts/Section";

const FIRST = 6;

interface Props {
  sightings: Sighting[];
  asset: number;
  address: string;
}

/** The sightings behind the dossier: who read what, how long it took, and what was cut short. */
export function EvidenceSection({ sightings, asset, address }: Props) {
  const { past } = useDial();
  const [all, setAll] = useState(false);
  const shown = all ? sightings : sightings.slice(0, FIRST);
  return (
    <Section id="evidence" title="Evidence" flush>
      {!past && <Collectors asset={asset} address={address} />}
      <ul className="text-[13px]">
        {shown.map((s) => {
          const cut = s.readings.filter((r) => !r.complete && r.note && s.source_kind !== "hand");
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
                  {cut.length > 0 && <span className="tag warn">not whole</span>}
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

const COLLECTORS: Record<string, string> = {
  snmp: "SNMP",
  ssh: "SSH",
  winrm: "WinRM",
  tls: "TLS certificates",
};

/** Which collectors the device was offered to when a sweep last met it, and the way to run one again. */
export function Collectors({ asset, address }: { asset: number; address: string }) {
  const navigate = useNavigate();
  const maySweep = useMay("sweep");
  const last = useQuery(asks("/api/assets/{asset}/offers", { params: { path: { asset } } }));
  const ask = async (only: string) => {
    try {
      const run = await ok(client.POST("/api/look-again", { body: { address, only } }));
      await navigate({ to: "/discovery/runs/$run", params: { run: String(run.id) }, search: {} });
    } catch (error) {
      sayRefused(error, "It could not be asked.");
    }
  };
  if (!address) return null;
  return (
    <div className="border-b border-[var(--line-2)] px-3.5 py-1.5 text-[13px]">
      <p>
        {maySweep && (
          <button type="button" className="link-quiet mr-1 font-semibold" onClick={() => ask("")}>
            Read it again now
          </button>
        )}
        <span className="dim">
          at <span className="mono">{address}</span>
          {last.data && `; last met by “${last.data.sweep}”`}
          {last.data?.outpost && ` through ${last.data.outpost}`}
        </span>
      </p>
      {last.data && (
        <ul className="mt-1">
          {last.data.offers.map((o) => (
            <li key={o.collector} className="flex gap-2 py-0.5">
              <b className="w-32 font-semibold">{COLLECTORS[o.collector] ?? o.collector}</b>
              <span className="dim min-w-0 flex-1">
                {o.ran
                  ? `ran ${o.took_ms} ms and brought ${plural(o.sections, "section")}`
                  : `not offered: ${o.why}`}
              </span>
              {maySweep && o.ran && (
                <button
                  type="button"
                  className="link-quiet font-semibold"
                  aria-label={`Run ${COLLECTORS[o.collector] ?? o.collector} again`}
                  onClick={() => ask(o.collector)}
                >
                  Run again
                </button>
              )}
            </li>
          ))}
        </ul>
      )}
    </div>
  );
}
