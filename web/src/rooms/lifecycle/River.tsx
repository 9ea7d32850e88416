import { useQuery } from "@tanstack/react-query";
import { asks } from "../../api/asking";
import type { Schemas } from "../../api/client";
import { formatted } from "../../parts/days";
import { capital, day, plural, shortDay } from "../../parts/format";
import { Unanswered } from "../../parts/Problem";
import { t } from "../../words";
import { CashBars } from "./CashBars";

type Ending = Schemas["EndingOut"];

const TONES: Record<string, string> = {
  warranties: "var(--s1)",
  contracts: "var(--heather-ink)",
  "licence terms": "var(--color-accent)",
  maintenance: "var(--s2)",
  support: "var(--s6)",
  loans: "var(--s3)",
};
const MONTH = { month: "short" } as const;

/** What ends in the year to come, stream by stream, and under it what is to be paid. */
export function River({ at }: { at: string | undefined }) {
  const asked = useQuery(asks("/api/lifecycle/river", { params: { query: { as_of: at, months: 12 } } }));
  if (asked.error || !asked.data) return <Unanswered asked={asked} what={t("Reading what ends …")} />;
  const r = asked.data;
  const begins = new Date(r.months[0] ?? r.since).getTime();
  const last = new Date(r.months[r.months.length - 1] ?? r.since);
  const ends = new Date(last.getFullYear(), last.getMonth() + 1, 1).getTime();
  const at100 = (iso: string) => (100 * (new Date(iso).getTime() - begins)) / (ends - begins);
  const missed = r.endings.filter((e) => e.missed);
  return (
    <>
      <p className="pb-2.5 text-[13.5px]">
        <span className="dim">
          {t("{{end}} in twelve months.", {
            end: plural(r.endings.filter((e) => !e.over).length, "thing ends", "things end"),
          })}{" "}
        </span>
        {r.first_notice?.notice_by ? (
          <b className="font-semibold">
            {t("Notice of {{name}} must go out by {{notice_by}}.", {
              name: r.first_notice.name,
              notice_by: day(r.first_notice.notice_by),
            })}
          </b>
        ) : (
          <span className="dim">{t("No notice has to go out.")}</span>
        )}
        {missed.length > 0 && (
          <span className="tag warn ml-3">
            {t("goes on, for notice was not given: {{missed}}", {
              missed: missed.map((e) => e.name).join(", "),
            })}
          </span>
        )}
      </p>
      <section className="sheet overflow-x-auto p-3.5" aria-label={t("What ends when")}>
        <div className="relative min-w-[860px]">
          <div className="ml-[120px] grid" style={{ gridTemplateColumns: `repeat(${r.months.length}, 1fr)` }}>
            {r.months.map((m) => (
              <span key={m} className="dim border-l border-[var(--line-2)] pl-1.5 text-[12px]">
                {formatted(MONTH, String(m))}
                {m.slice(5, 7) === "01" && ` ${m.slice(0, 4)}`}
              </span>
            ))}
          </div>
          {r.streams.map((s) => (
            <Stream
              key={s}
              name={s}
              endings={r.endings.filter((e) => e.stream === s)}
              at={at100}
              months={r.months.length}
            />
          ))}
          <div className="pointer-events-none absolute inset-y-0 right-0 left-[120px]">
            <i
              className="absolute inset-y-0 w-0.5 bg-accent"
              style={{ left: `${at100(r.day)}%` }}
              title={t("the day shown: {{day}}", { day: day(r.day) })}
            />
          </div>
        </div>
      </section>
      <CashBars at={at} />
    </>
  );
}

/** One stream: its endings as marks on the line of months, stacked where they come close. */
function Stream(props: { name: string; endings: Ending[]; at: (iso: string) => number; months: number }) {
  const rows: [number, number][][] = [];
  const placed = props.endings.map((e) => {
    const left = props.at(e.day);
    // A label takes about an eighth of the width, to the left of its mark near the end of the year; a mark goes on
    // the first line that is free there.
    const [from, to] = left > 86 ? [left - 14, left + 1] : [left, left + 14];
    let line = rows.findIndex((taken) => taken.every(([a, b]) => to <= a || from >= b));
    if (line < 0) line = rows.push([]) - 1;
    rows[line]?.push([from, to]);
    return { e, left, line };
  });
  return (
    <div className="flex border-t border-base-300">
      <h2 className="w-[120px] flex-none pt-2.5 text-[12.5px] font-semibold">{capital(props.name)}</h2>
      <ul
        className="relative flex-1"
        style={{
          height: Math.max(1, rows.length) * 40 + 12,
          backgroundImage: "linear-gradient(to right, var(--line-2) 1px, transparent 1px)",
          backgroundSize: `${100 / props.months}% 100%`,
        }}
      >
        {placed.map(({ e, left, line }) => (
          <li
            key={`${e.path}${e.stream}${e.day}`}
            className={`absolute flex max-w-[150px] items-start gap-1.5 text-[12px] leading-[15px] ${left > 86 ? "flex-row-reverse text-right" : ""} ${e.over ? "dim" : ""}`}
            style={{
              top: 8 + line * 40,
              ...(left > 86 ? { right: `${100 - left}%` } : { left: `${left}%` }),
            }}
          >
            <i
              className={`mt-0.5 h-7 w-2 flex-none rounded-[2px] ${e.over ? "opacity-50" : ""}`}
              style={{ background: e.notice_by && !e.decided ? "var(--color-error)" : TONES[e.stream] }}
            />
            <a href={e.path} className="hover:underline" title={`${e.name}, ${day(e.day)}`}>
              <span className="line-clamp-1">
                {e.name}
                {e.count ? `, ${e.count}` : ""}
              </span>
              <span className="faint">
                {e.decided ||
                  (e.notice_by
                    ? t("notice by {{notice_by}}", { notice_by: shortDay(e.notice_by) })
                    : shortDay(e.day))}
              </span>
            </a>
          </li>
        ))}
        {!placed.length && <li className="faint p-2.5 text-[12px]">{t("nothing in these months")}</li>}
      </ul>
    </div>
  );
}
