import { useQuery } from "@tanstack/react-query";
import { Link } from "@tanstack/react-router";
import { asks } from "../../api/asking";
import { formatted } from "../../parts/days";
import { amount } from "../../parts/format";
import { Problem } from "../../parts/Problem";
import { t } from "../../words";

const MONTH = { month: "short" } as const;

/** What is to be paid in the twelve months to come, a bar a month. */
export function CashBars({ at }: { at: string | undefined }) {
  const asked = useQuery(asks("/api/lifecycle/cash", { params: { query: { as_of: at, months: 12 } } }));
  if (asked.error)
    return (
      <div className="pt-3">
        <Problem error={asked.error} />
      </div>
    );
  if (!asked.data) return null;
  const { months, currency, total } = asked.data;
  const most = Math.max(1, ...months.map((m) => Number(m.total)));
  return (
    <section className="sheet mt-3 overflow-x-auto p-3.5" aria-label={t("To pay")}>
      <div className="flex min-w-[860px] items-end">
        <div className="w-[120px] flex-none pb-5">
          <h2 className="text-[12.5px] font-semibold">{t("To pay")}</h2>
          <p className="faint text-[12px]">
            {t("{{currency}}, {{it}} in all", { currency, it: amount(total.split(".")[0] ?? total) })}
          </p>
          <Link
            to="/lifecycle"
            search={{ at, tab: "payments" } as never}
            className="link-quiet text-[12px] font-semibold"
          >
            {t("Each payment")}
          </Link>
        </div>
        <ol
          className="grid flex-1 items-end"
          style={{ gridTemplateColumns: `repeat(${months.length}, 1fr)` }}
        >
          {months.map((m) => (
            <li key={m.month} className="flex flex-col items-center px-1 text-[12px]">
              <span className="tabular-nums">
                {Number(m.total) ? amount(m.total.split(".")[0] ?? "") : "–"}
              </span>
              <i
                className="mt-0.5 w-full max-w-[62px] rounded-t-[3px] bg-[var(--s2)]"
                style={{ height: `${Math.round((90 * Number(m.total)) / most)}px` }}
              />
              <span className="dim w-full border-t border-base-300 pt-0.5 text-center">
                {formatted(MONTH, String(m.month))}
              </span>
            </li>
          ))}
        </ol>
      </div>
    </section>
  );
}
