import { useState } from "react";
import type { Claim, Claims } from "../api/types";
import { t } from "../words";
import { EvidenceMark, EvidenceMarks, sourceWords } from "./Evidence";
import { agoWords, bytes, memory, moment } from "./format";

interface Props {
  label: string;
  field: string;
  type?: string;
  value: React.ReactNode;
  claims: Claims;
  mono?: boolean;
  /** How a value is written, whoever says it. */
  show?: (value: unknown) => string;
}

function said({ type, show }: Pick<Props, "type" | "show">, value: Claim["value"]): string {
  if (value === null) return "none";
  if (show) return show(value);
  if (type === "memory" && typeof value === "number") return memory(value);
  if (type === "bytes" && typeof value === "number") return bytes(value);
  return String(value);
}

/** A fact with its evidence marks; clicking them says who vouches, who disagrees, and why the winner won. */
export function Fact({ label, field, type, value, claims, mono, show }: Props) {
  const [open, setOpen] = useState(false);
  const { why = "", said: list = [] } = claims[field] ?? {};
  const against = list.filter((c) => !c.agrees);
  return (
    <>
      <dt>{label}</dt>
      <dd>
        <span className={mono ? "mono" : ""}>{value ?? <span className="faint">{t("not known")}</span>}</span>{" "}
        {against.length > 0 && (
          <button type="button" className="tag note" onClick={() => setOpen(!open)}>
            {against.length === 1
              ? t("{{which}} says {{it}}", {
                  which: against[0]?.source_kind === "file" ? "a file" : against[0]?.source,
                  it: said({ type, show }, against[0]?.value ?? null),
                })
              : t("{{against}} disagree", { against: against.length })}
          </button>
        )}
      </dd>
      <dd className="text-right">
        {list.length > 0 && (
          <button
            type="button"
            aria-expanded={open}
            aria-label={t("Why {{label}}: {{list}}", {
              label: label.toLowerCase(),
              list: list.map((c) => sourceWords(c.source_kind)).join(", "),
            })}
            className="rounded px-1 hover:bg-[var(--stone-2)]"
            onClick={() => setOpen(!open)}
          >
            <EvidenceMarks kinds={list.map((c) => c.source_kind)} />
          </button>
        )}
      </dd>
      {open && (
        <dd className="col-span-3 mb-1 rounded-[7px] bg-[var(--head)] px-3 py-2 text-[12.5px]">
          <ul>
            {list.map((c, i) => (
              <li key={i} className="flex flex-wrap items-baseline gap-x-2">
                <EvidenceMark kind={c.source_kind} />
                <span className={`mono ${c.believed ? "font-semibold" : ""}`}>
                  {said({ type, show }, c.value)}
                </span>
                <span className="dim">
                  {t("{{which}} {{source}}{{which2}}, since {{since}}", {
                    which: c.source_kind === "guess" ? t("worked out from what") : t("says"),
                    source: c.source,
                    which2: c.source_kind === "guess" ? t(" read") : "",
                    since: moment(c.since),
                  })}
                  {c.confirmed !== c.since && t(", last {{confirmed}}", { confirmed: agoWords(c.confirmed) })}
                </span>
              </li>
            ))}
          </ul>
          <p className="mt-1 font-semibold">{why}</p>
        </dd>
      )}
    </>
  );
}
