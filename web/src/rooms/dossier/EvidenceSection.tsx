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
import { t, word } from "../../words";

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
    <Section id="evidence" title={t("Evidence")} flush>
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
                  {cut.length > 0 && <span className="tag warn">{t("not whole")}</span>}
                </summary>
                <div className="dim mt-1 pl-5 text-[12.5px]">
                  {s.reasons.length > 0 && (
                    <p>{t("Held to be this asset: {{reasons}}.", { reasons: s.reasons.join("; ") })}</p>
                  )}
                  {s.address && (
                    <p>
                      {t("Met at")} <span className="mono">{s.address}</span>.
                    </p>
                  )}
                  <ul className="mt-1 grid grid-cols-[1fr_1fr_auto] gap-x-3">
                    {s.readings.map((r, i) => (
                      <li key={i} className="contents">
                        <span>{word(r.section)}</span>
                        <span className="mono">{r.collector}</span>
                        <span className="num">
                          {r.took_ms !== null ? t("{{took_ms}} ms", { took_ms: r.took_ms }) : ""}
                        </span>
                      </li>
                    ))}
                  </ul>
                  {[...cut, ...notes].map((r, i) => (
                    <p key={i}>
                      {word(r.section)}: {r.note}
                    </p>
                  ))}
                  <a
                    className="link-quiet"
                    href={`/api/sightings/${s.document}`}
                    target="_blank"
                    rel="noreferrer"
                  >
                    {t("The document as it came")}
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
          {t("Show all {{sightings}}", { sightings: sightings.length })}
        </button>
      )}
    </Section>
  );
}

const COLLECTORS: Record<string, string> = {
  snmp: "SNMP",
  ssh: "SSH",
  winrm: t("WinRM"),
  tls: t("TLS certificates"),
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
      sayRefused(error, t("It could not be asked."));
    }
  };
  if (!address) return null;
  return (
    <div className="border-b border-[var(--line-2)] px-3.5 py-1.5 text-[13px]">
      <p>
        {maySweep && (
          <button type="button" className="link-quiet mr-1 font-semibold" onClick={() => ask("")}>
            {t("Read it again now")}
          </button>
        )}
        <span className="dim">
          {t("at")} <span className="mono">{address}</span>
          {last.data && t("; last met by “{{sweep}}”", { sweep: last.data.sweep })}
          {last.data?.outpost && t(" through {{outpost}}", { outpost: last.data.outpost })}
        </span>
      </p>
      {last.data && (
        <ul className="mt-1">
          {last.data.offers.map((o) => (
            <li key={o.collector} className="flex gap-2 py-0.5">
              <b className="w-32 font-semibold">{COLLECTORS[o.collector] ?? o.collector}</b>
              <span className="dim min-w-0 flex-1">
                {o.ran
                  ? t("ran {{took_ms}} ms and brought {{sections}}", {
                      took_ms: o.took_ms,
                      sections: plural(o.sections, "section"),
                    })
                  : t("not offered: {{why}}", { why: o.why })}
              </span>
              {maySweep && o.ran && (
                <button
                  type="button"
                  className="link-quiet font-semibold"
                  aria-label={t("Run {{COLLECTORS}} again", {
                    COLLECTORS: COLLECTORS[o.collector] ?? o.collector,
                  })}
                  onClick={() => ask(o.collector)}
                >
                  {t("Run again")}
                </button>
              )}
            </li>
          ))}
        </ul>
      )}
    </div>
  );
}
