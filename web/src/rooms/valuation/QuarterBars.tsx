import type { Schemas } from "../../api/client";
import { amount, plural } from "../../parts/format";
import { t } from "../../words";

/** Quarter by quarter what is replaced, against what may be spent; what the budget does not reach is written under it. */
export function QuarterBars({ p }: { p: Schemas["PlannedOut"] }) {
  const most = Math.max(1, ...p.quarters.flatMap((q) => [Number(q.cost), Number(q.budget ?? 0)]));
  return (
    <section className="sheet overflow-x-auto px-3.5 py-3" aria-label={t("By quarter")}>
      <ol
        className="grid min-w-[560px] items-start gap-2"
        style={{ gridTemplateColumns: `repeat(${p.quarters.length}, minmax(0, 1fr))` }}
      >
        {p.quarters.map((q) => (
          <li key={q.name} className="text-center text-[12px]">
            <div className="relative mx-auto h-[104px] w-full max-w-[72px] border-b border-base-300">
              {q.budget && (
                <i
                  className="absolute inset-x-0 border-t-2 border-dashed border-accent"
                  style={{ bottom: `${(96 * Number(q.budget)) / most}px` }}
                  title={t("Budget {{budget}}", { budget: amount(q.budget) })}
                />
              )}
              <i
                className="absolute inset-x-1 bottom-0 rounded-t-[3px] bg-[var(--s2)]"
                style={{ height: `${(96 * Number(q.cost)) / most}px` }}
              />
            </div>
            <b className="block font-semibold tabular-nums">{amount(q.cost.split(".")[0] ?? q.cost)}</b>
            <span className="dim block">{plural(q.devices, "device")}</span>
            <span className="block">{q.name}</span>
            {q.waiting > 0 && (
              <span className="tag warn mt-0.5">{t("{{waiting}} wait", { waiting: q.waiting })}</span>
            )}
          </li>
        ))}
      </ol>
    </section>
  );
}
