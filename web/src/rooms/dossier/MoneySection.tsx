import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { asks } from "../../api/asking";
import type { Schemas } from "../../api/client";
import { TermsForm } from "../../parts/acts/TermsForm";
import { useDial } from "../../parts/dial";
import { amount, capital, day } from "../../parts/format";
import { useMay } from "../../parts/me";
import { Problem } from "../../parts/Problem";
import { Section } from "../../parts/Section";
import { t, word } from "../../words";

type Money = Schemas["AssetMoneyOut"];

/** What one asset is worth and costs a month, with the terms and the schedule that say so. */
export function MoneySection({ asset }: { asset: number }) {
  const { at } = useDial();
  const may = useMay("plan") && !at;
  const [changing, setChanging] = useState(false);
  const asked = useQuery(
    asks("/api/valuation/assets/{asset}", { params: { path: { asset }, query: { as_of: at } } }),
  );
  if (asked.error)
    return (
      <Section id="money" title={t("Money")}>
        <Problem error={asked.error} />
      </Section>
    );
  const m = asked.data;
  if (!m || (!m.terms && !m.month.length && m.apart === "no price is known")) return null;
  return (
    <Section id="money" title={t("Money")} flush>
      <div className="px-3.5 pb-2 text-[13px]">
        {m.book !== null && m.book !== undefined ? (
          <p>
            {t("Worth")} <b className="font-semibold tabular-nums">{amount(m.book)}</b>{" "}
            {t("{{currency}} on {{day}}.", { currency: m.currency, day: day(m.day) })}{" "}
            <b className="font-semibold tabular-nums">{amount(m.total)}</b>{" "}
            {t("{{currency}} a month, all in.", { currency: m.currency })}
          </p>
        ) : (
          <p className="dim">{t("No book value: {{apart}}.", { apart: m.apart })}</p>
        )}
        {m.disposal && (
          <p>
            {t("Parted with at a book value of {{book}}: {{which}}", {
              book: amount(m.disposal.book),
              which: m.disposal.gain.startsWith("-") ? t("a loss of ") : t("a gain of "),
            })}
            <b className="font-semibold">{amount(m.disposal.gain.replace("-", ""))}</b> {m.currency}.
          </p>
        )}
      </div>
      {m.month.length > 0 && (
        <table className="grid-table">
          <tbody>
            {m.month.map((line) => (
              <tr key={`${line.part}${line.what}`}>
                <td>{capital(line.part)}</td>
                <td className="dim">{line.what}</td>
                <td className="num mono">{amount(line.amount)}</td>
              </tr>
            ))}
          </tbody>
        </table>
      )}
      {m.terms && <Schedule m={m} />}
      {may && (
        <p className="px-3.5 py-2">
          <button
            type="button"
            className="link-quiet text-[12.5px] font-semibold"
            onClick={() => setChanging(true)}
          >
            {m.own ? t("Change its own terms") : t("Give it terms of its own")}
          </button>
        </p>
      )}
      {changing && <TermsForm asset={asset} money={m} close={() => setChanging(false)} />}
    </Section>
  );
}

function Schedule({ m }: { m: Money }) {
  const held = m.terms;
  if (!held) return null;
  return (
    <details className="border-t border-[var(--line-2)] px-3.5 py-2 text-[12.5px]">
      <summary className="cursor-pointer font-semibold">
        {t("Why: {{cost}} over {{months}} months from {{start}}", {
          cost: amount(held.cost),
          months: held.months,
          start: day(held.start),
        })}
      </summary>
      <p className="dim py-1">
        {capital(word(held.method))}
        {held.method === "declining balance" &&
          t(", {{factor}} times the straight-line rate", { factor: held.factor / 100 })}
        {t(", by {{convention}}; {{which}}. By {{which2}}.", {
          convention: word(held.convention),
          which: Number(held.residual)
            ? t("{{residual}} is left in the end", { residual: amount(held.residual) })
            : t("nothing is left in the end"),
          which2: m.own
            ? t("its own terms, {{made_by}}{{which}}", {
                made_by: m.own.made_by,
                which: m.own.why ? `: ${m.own.why}` : "",
              })
            : t("the rule “{{by}}”", { by: m.by }),
        })}
      </p>
      {held.revisions.map((r) => (
        <p key={r.day} className="dim">
          {t("From {{day}}: what was left is spread over {{months_left}} months, down to {{residual}}.", {
            day: day(r.day),
            months_left: r.months_left,
            residual: amount(r.residual),
          })}
        </p>
      ))}
      <div className="grid gap-3 sm:grid-cols-2">
        <Lines head={t("Fiscal year")} rows={m.years.map((y) => ({ ...y, name: String(y.year) }))} />
        <Lines head={t("Month")} rows={m.months.map((x) => ({ ...x, name: x.month }))} />
      </div>
    </details>
  );
}

type Line = { name: string; charge: string; derecognised: string; book: string };

/** A schedule; what left the books with a device that was parted with is no depreciation and stands apart. */
function Lines({ head, rows }: { head: string; rows: Line[] }) {
  const parted = rows.some((r) => Number(r.derecognised));
  return (
    <table className="grid-table">
      <thead>
        <tr>
          <th>{head}</th>
          <th className="num">{t("Charge")}</th>
          {parted && <th className="num">{t("Left with it")}</th>}
          <th className="num">{t("Book value")}</th>
        </tr>
      </thead>
      <tbody>
        {rows.map((r) => (
          <tr key={r.name}>
            <td className="mono">{r.name}</td>
            <td className="num mono">{amount(r.charge)}</td>
            {parted && <td className="num mono">{amount(r.derecognised)}</td>}
            <td className="num mono">{amount(r.book)}</td>
          </tr>
        ))}
      </tbody>
    </table>
  );
}
