import { Suspense, useContext } from "react";
import { DeviceLink } from "../../parts/DeviceLink";
import { count, lineText, NUMBERS, plural, shortDay } from "../../parts/format";
import { LOCALE, t } from "../../words";
import type { Answer, Card } from "./answers";
import { Heat, Stacked } from "./ByTwo";
import { Line } from "./Line";
import { inkOf, Opens } from "./Opens";
import { Picture } from "./picture";

interface Props {
  card: Card;
  answer: Answer | undefined;
  at: string | undefined;
}

/** What a card shows; every mark opens exactly its rows. */
export function CardShown({ card, answer, at }: Props) {
  if (card.of === "text") return <p className="px-3.5 pb-3 whitespace-pre-line">{card.text}</p>;
  if (!answer) return <p className="faint px-3.5 pb-3 text-[13px]">{t("Counting …")}</p>;
  if (answer.trouble)
    return (
      <p role="alert" className="px-3.5 pb-3 text-[13px] text-error">
        {t("It shows nothing: {{trouble}}", { trouble: answer.trouble })}
      </p>
    );
  const then = answer.at ?? at;
  if (card.shown === "figure") return <Figure card={card} answer={answer} at={then} />;
  if (card.shown === "line") return <Line card={card} answer={answer} at={then} />;
  if (card.shown === "ring") return <Ring card={card} answer={answer} at={then} />;
  if (card.shown === "stacked") return <Stacked answer={answer} at={then} />;
  if (card.shown === "heat") return <Heat answer={answer} at={then} />;
  if (card.shown === "map") return <OnMap answer={answer} at={then} />;
  if (card.shown === "list") return <List answer={answer} at={then} />;
  return <Parts answer={answer} at={then} />;
}

function Figure({ card, answer, at }: { card: Card; answer: Answer; at: string | undefined }) {
  const now = answer.count ?? 0;
  const change = answer.before === null ? null : now - answer.before;
  return (
    <div className="px-3.5 pb-3">
      <Opens
        filter={answer.filter}
        report={answer.report}
        at={at}
        className="text-[32px] leading-none font-bold tabular-nums"
      >
        {answer.amount === null
          ? count(now)
          : answer.amount.toLocaleString(LOCALE, { maximumFractionDigits: 0 })}
      </Opens>
      {answer.amount !== null && (
        <span className="dim ml-2 text-[13px]">{t("in {{lines}}", { lines: plural(now, "line") })}</span>
      )}
      <Trend points={answer.points} />
      {change !== null && (
        <p className="dim pt-1 text-[13px]">
          {t("{{which}} {{days}} days before", {
            which:
              change === 0
                ? t("as many as")
                : t("{{change}} {{which}} than", {
                    change: count(Math.abs(change)),
                    which: change > 0 ? t("more") : t("fewer"),
                  }),
            days: card.days,
          })}
        </p>
      )}
    </div>
  );
}

/** How a figure came to be what it is, as a small line; what it says stands in words beside. */
function Trend({ points }: { points: Answer["points"] }) {
  if (points.length < 3) return null;
  const counts = points.map((p) => p.count);
  const [least, most] = [Math.min(...counts), Math.max(...counts)];
  const at = (n: number, i: number) =>
    `${(i * 100) / (points.length - 1)},${most === least ? 12 : 22 - ((n - least) / (most - least)) * 20}`;
  return (
    <svg viewBox="0 0 100 24" preserveAspectRatio="none" className="mt-2 block h-6 w-full" aria-hidden="true">
      <polyline
        points={counts.map(at).join(" ")}
        fill="none"
        stroke="var(--color-primary)"
        strokeWidth="2"
        vectorEffect="non-scaling-stroke"
      />
    </svg>
  );
}

function OnMap({ answer, at }: { answer: Answer; at: string | undefined }) {
  const Drawn = useContext(Picture);
  return (
    <>
      <p className="px-3.5 pb-1 text-[13px]">
        <Opens filter={answer.filter} at={at} className="link-quiet font-bold">
          {plural(answer.count ?? 0, "device")}
        </Opens>
      </p>
      {Drawn && (
        <Suspense fallback={<p className="faint px-3.5 pb-3 text-[13px]">{t("Drawing …")}</p>}>
          <Drawn filter={answer.filter ?? ""} at={at} />
        </Suspense>
      )}
    </>
  );
}

function Parts({ answer, at }: { answer: Answer; at: string | undefined }) {
  const most = Math.max(1, ...answer.parts.map((p) => p.count));
  if (answer.parts.length === 0) return <p className="dim px-3.5 pb-3 text-[13px]">{t("None.")}</p>;
  return (
    <ul className="px-3.5 pb-3 text-[13px]">
      {answer.parts.map((part, n) => (
        <li
          key={part.label}
          className="grid grid-cols-[minmax(0,6.5rem)_minmax(0,1fr)_3rem] items-center gap-2 py-[3px]"
        >
          <span className="truncate" title={part.label}>
            {part.label}
          </span>
          <span aria-hidden="true">
            <span
              className="block h-3.5 rounded-[3px]"
              style={{ width: `${Math.max(2, (100 * part.count) / most)}%`, background: inkOf(n) }}
            />
          </span>
          <Opens
            filter={part.filter}
            report={answer.report}
            at={at}
            className="link-quiet text-right font-bold tabular-nums"
          >
            {count(part.count)}
          </Opens>
        </li>
      ))}
    </ul>
  );
}

const [RADIUS, THICK] = [38, 15];

function Ring({ card, answer, at }: { card: Card; answer: Answer; at: string | undefined }) {
  const whole = answer.parts.reduce((sum, p) => sum + p.count, 0);
  const round = 2 * Math.PI * RADIUS;
  const first = answer.parts[0];
  const share = card.whole !== "" && first ? Math.floor((100 * first.count) / Math.max(1, whole)) : null;
  let from = 0;
  return (
    <div className="flex flex-wrap items-center gap-4 px-3.5 pb-3 text-[13px]">
      <svg viewBox="0 0 100 100" className="h-24 w-24 flex-none" aria-hidden="true">
        <circle cx="50" cy="50" r={RADIUS} fill="none" stroke="var(--color-base-300)" strokeWidth={THICK} />
        {answer.parts.map((part, n) => {
          const length = (round * part.count) / Math.max(1, whole);
          const arc = (
            <circle
              key={part.label}
              cx="50"
              cy="50"
              r={RADIUS}
              fill="none"
              stroke={share !== null && n > 0 ? "var(--color-base-300)" : inkOf(n)}
              strokeWidth={THICK}
              strokeDasharray={`${length} ${round - length}`}
              strokeDashoffset={round / 4 - from}
            />
          );
          from += length;
          return arc;
        })}
        {share !== null && (
          <text x="50" y="54" textAnchor="middle" className="fill-base-content text-[13px] font-bold">
            {share} %
          </text>
        )}
      </svg>
      <ul className="min-w-0 flex-1">
        {answer.parts.map((part, n) => (
          <li key={part.label} className="flex items-baseline gap-2 py-[2px]">
            <span
              aria-hidden="true"
              className="h-2.5 w-2.5 flex-none rounded-[2px]"
              style={{ background: share !== null && n > 0 ? "var(--color-base-300)" : inkOf(n) }}
            />
            <span className="min-w-0 flex-1 truncate">
              {share === null ? part.label : n === 0 ? t("are") : t("are not")}
            </span>
            <Opens
              filter={part.filter}
              report={answer.report}
              at={at}
              className="link-quiet font-bold tabular-nums"
            >
              {count(part.count)}
            </Opens>
          </li>
        ))}
        {share !== null && <li className="dim pt-1">{t("of {{whole}}", { whole: count(whole) })}</li>}
      </ul>
    </div>
  );
}

function List({ answer, at }: { answer: Answer; at: string | undefined }) {
  if (answer.rows.length === 0) return <p className="dim px-3.5 pb-3 text-[13px]">{t("None.")}</p>;
  return (
    <div className="overflow-x-auto pb-2">
      <table className="w-full text-[13px]">
        <thead className="sr-only">
          <tr>
            {answer.columns.map((c) => (
              <th key={c.name}>{c.label}</th>
            ))}
          </tr>
        </thead>
        <tbody>
          {answer.rows.map((row, n) => (
            <tr
              key={`${answer.assets[n]} ${row.join(" ")}`}
              className="border-b border-base-300 last:border-0"
            >
              {row.map((value, c) => (
                <td
                  key={answer.columns[c]?.name}
                  className={`max-w-40 truncate px-3.5 py-1 ${NUMBERS.has(answer.columns[c]?.type ?? "") ? "text-right tabular-nums" : ""}`}
                >
                  <Cell
                    value={value}
                    type={answer.columns[c]?.type ?? ""}
                    asset={c === nameColumn(answer) ? (answer.assets[n] ?? null) : null}
                    at={at}
                  />
                </td>
              ))}
            </tr>
          ))}
        </tbody>
      </table>
      {(answer.count ?? 0) > answer.rows.length && (
        <p className="px-3.5 pt-1.5 text-[13px]">
          <Opens filter={answer.filter} report={answer.report} at={at} className="link-quiet font-semibold">
            {t("All {{number}}", { number: count(answer.count ?? 0) })}
          </Opens>
        </p>
      )}
    </div>
  );
}

/** The column that opens the device: its name, else the first. */
const nameColumn = (answer: Answer) =>
  Math.max(
    0,
    answer.columns.findIndex((c) => c.name === "name" || c.name === "asset.name"),
  );

function Cell(props: { value: unknown; type: string; asset: number | null; at: string | undefined }) {
  const text = cellText(props.value, props.type) || "–";
  if (props.asset === null) return <>{text}</>;
  return (
    <DeviceLink asset={props.asset} at={props.at} className="link-quiet mono font-semibold">
      {text}
    </DeviceLink>
  );
}

/** A value as there is room for it on a card: days without their year where it is this one's, amounts without cents. */
function cellText(value: unknown, type: string): string {
  if ((type === "moment" || type === "day") && value) return shortDay(String(value));
  const whole = typeof value === "number" ? Math.round(value) : value;
  const text = lineText(whole, type);
  return type === "percent" && text ? `${text} %` : text;
}
