import { Link } from "@tanstack/react-router";
import { useMemo } from "react";
import { axes, Chart } from "../../parts/chart/Chart";
import { count, shortDay } from "../../parts/format";
import { t } from "../../words";
import type { Answer, Card } from "./answers";
import { Opens } from "./Opens";

interface Props {
  card: Card;
  answer: Answer;
  at: string | undefined;
}

/** How many it was from day to day; the list below opens each of them. */
export function Line({ card, answer, at }: Props) {
  const { points } = answer;
  const draw = useMemo(
    () => (ink: Parameters<typeof axes>[0]) => {
      const { grid, names, numbers, tooltip } = axes(ink);
      return {
        grid: { ...grid, top: 6 },
        tooltip,
        xAxis: { type: "category", data: points.map((p) => shortDay(p.day)), boundaryGap: false, ...names },
        yAxis: { type: "value", ...numbers, scale: true, splitNumber: 3 },
        series: [
          {
            type: "line",
            data: points.map((p) => p.count),
            symbol: "circle",
            symbolSize: 4,
            lineStyle: { color: ink.first, width: 2 },
            itemStyle: { color: ink.first },
            areaStyle: { color: ink.second, opacity: 0.25 },
          },
        ],
      };
    },
    [points],
  );
  const [first, last] = [points[0], points.at(-1)];
  if (!first || !last) return null;
  return (
    <div className="pb-3">
      <div className="px-2">
        <Chart
          label={t("{{title}}: {{number}} to {{number2}}", {
            title: card.title,
            number: count(first.count),
            number2: count(last.count),
          })}
          draw={draw}
          height={card.high > 1 ? 250 : 110}
        />
      </div>
      <p className="px-3.5 text-[13px]">
        {count(first.count)} →{" "}
        <Opens filter={answer.filter} at={at} className="link-quiet font-bold">
          {count(last.count)}
        </Opens>
        <span className="dim"> {t("in {{days}} days", { days: card.days })}</span>
      </p>
      <details className="px-3.5 pt-1 text-[12.5px]">
        <summary className="dim cursor-pointer">{t("Day by day")}</summary>
        <ul className="columns-2 pt-1">
          {points.map((p) => (
            <li key={p.day} className="flex justify-between gap-2">
              <Link to="/estate" search={{ at: p.day, q: card.filter || undefined }} className="link-quiet">
                {shortDay(p.day)}
              </Link>
              <span className="tabular-nums">{count(p.count)}</span>
            </li>
          ))}
        </ul>
      </details>
    </div>
  );
}
