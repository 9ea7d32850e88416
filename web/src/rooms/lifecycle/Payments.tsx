import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { asks } from "../../api/asking";
import { formatted } from "../../parts/days";
import { amount, plural, shortDay } from "../../parts/format";
import { Unanswered } from "../../parts/Problem";
import { t } from "../../words";

const MONTH = { month: "long", year: "numeric" } as const;

/** Every payment, month by month: 36 months on, or over any months past; what goes on only if it is renewed stands out. */
export function Payments({ at }: { at: string | undefined }) {
  const [since, setSince] = useState("");
  const [months, setMonths] = useState(36);
  const asked = useQuery({
    ...asks("/api/lifecycle/cash", {
      params: { query: { as_of: at, months, since: since ? `${since}-01` : undefined } },
    }),
    placeholderData: (before) => before,
  });
  if (asked.error || !asked.data) return <Unanswered asked={asked} what={t("Reckoning payments …")} />;
  const { currency, total, apart } = asked.data;
  const told = asked.data.months.filter((m) => m.payments.length);
  return (
    <>
      <div className="flex flex-wrap items-center gap-3 pb-2.5 text-[13.5px]">
        <label className="flex items-center gap-2">
          <span className="dim">{t("From")}</span>
          <input
            type="month"
            className="input input-sm w-40"
            value={since}
            onChange={(e) => setSince(e.target.value)}
          />
        </label>
        <label className="flex items-center gap-2">
          <span className="dim">{t("over")}</span>
          <select
            className="select select-sm w-32"
            value={months}
            onChange={(e) => setMonths(Number(e.target.value))}
          >
            {[3, 12, 36, 60].map((n) => (
              <option key={n} value={n}>
                {t("{{n}} months", { n })}
              </option>
            ))}
          </select>
        </label>
        <span>
          <b className="tabular-nums">{amount(total)}</b>{" "}
          <span className="dim">{t("{{currency}} in all", { currency })}</span>
        </span>
        {apart.length > 0 && (
          <span className="tag warn">
            {t("no rate for {{apart}}: not in the sums", { apart: apart.join(", ") })}
          </span>
        )}
      </div>
      <div className="sheet overflow-x-auto">
        <table className="grid-table">
          <thead>
            <tr>
              <th>{t("Day")}</th>
              <th>{t("For")}</th>
              <th>{t("Kind")}</th>
              <th className="num">{t("Amount")}</th>
              <th className="num">{t("In {{currency}}", { currency })}</th>
            </tr>
          </thead>
          {told.map((m) => (
            <tbody key={m.month}>
              <tr className="bg-[var(--head)]">
                <th colSpan={4} scope="rowgroup">
                  {formatted(MONTH, String(m.month))}
                  <span className="faint ml-2 font-normal">{plural(m.payments.length, "payment")}</span>
                </th>
                <th className="num mono">{amount(m.total)}</th>
              </tr>
              {m.payments.map((p) => (
                <tr key={`${p.path}${p.name}${p.day}`}>
                  <td className="whitespace-nowrap">{shortDay(p.day)}</td>
                  <td>
                    <a href={p.path} className="link-quiet font-semibold">
                      {p.name}
                    </a>
                    {p.renewal && <span className="tag note ml-2">{t("if it goes on")}</span>}
                  </td>
                  <td className="dim">{p.what}</td>
                  <td className="num mono whitespace-nowrap">
                    {amount(p.amount)} {p.currency}
                  </td>
                  <td className="num mono">{p.own ? amount(p.own) : t("no rate")}</td>
                </tr>
              ))}
            </tbody>
          ))}
        </table>
        {!told.length && <p className="dim p-3 text-[13px]">{t("Nothing is to be paid in these months.")}</p>}
      </div>
    </>
  );
}
