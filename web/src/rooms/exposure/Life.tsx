import type { Schemas } from "../../api/client";
import { plural, shortDay } from "../../parts/format";
import { t } from "../../words";

type Page = Schemas["AdvisoryPage"];

const [WIDTH, HEIGHT, FLOOR, TOP] = [860, 120, 88, 30];
const DAY = 86_400_000;

/** The life of an advisory here: how many devices were open to it, from when feeds told of it on. */
export function Life({ page, now, due }: { page: Page; now: number; due: string | null }) {
  const steps = page.life.steps;
  const first = steps[0];
  if (!first) return null;
  const begins = Math.min(
    ...[page.published, page.met, first.day].flatMap((day) => (day ? [Date.parse(day)] : [])),
  );
  const ends = Math.max(now, due ? Date.parse(due) : now) + 2 * DAY;
  const x = (time: number) => 20 + ((WIDTH - 60) * (time - begins)) / Math.max(DAY, ends - begins);
  const y = (open: number) => FLOOR - (FLOOR - TOP) * (open / Math.max(1, page.life.most));
  const shown = steps.filter((s) => Date.parse(s.day) <= now);
  const last = shown.at(-1)?.open ?? 0;
  const path = shown.map(({ day: at, open }, n) => {
    const until = shown[n + 1] ? Date.parse(shown[n + 1]?.day ?? "") : now;
    return { at, open, from: x(Date.parse(at)), to: x(until) };
  });
  const half =
    page.life.half_days === null
      ? ""
      : t("half were ended in {{half_days}} days", { half_days: page.life.half_days });
  const met = t("met here {{day}}: {{devices}}", {
    day: shortDay(first.day),
    devices: plural(first.open, "device"),
  });
  return (
    <svg
      viewBox={`0 0 ${WIDTH} ${HEIGHT}`}
      className="block w-full min-w-[640px]"
      role="img"
      aria-label={[
        met,
        t("open now: {{last}}", { last }),
        half,
        due ? t("promised {{due}}", { due: shortDay(due) }) : "",
      ]
        .filter(Boolean)
        .join("; ")}
    >
      <line x1="10" x2={WIDTH - 10} y1={FLOOR} y2={FLOOR} stroke="var(--line-2)" strokeWidth="1.5" />
      {path.map((p) => (
        <rect
          key={p.at}
          x={p.from}
          y={y(p.open)}
          width={Math.max(1, p.to - p.from)}
          height={FLOOR - y(p.open)}
          fill="var(--s5)"
        >
          <title>
            {t("{{at}}: {{devices}} open", { at: shortDay(p.at), devices: plural(p.open, "device") })}
          </title>
        </rect>
      ))}
      {page.published && (
        <g>
          <circle cx={x(Date.parse(page.published))} cy={FLOOR} r="4" fill="var(--s7)" />
          <text x={x(Date.parse(page.published))} y={FLOOR + 20} fontSize="11.5" fill="var(--ink-2)">
            {t("published {{published}}", { published: shortDay(page.published) })}
          </text>
        </g>
      )}
      <circle cx={x(Date.parse(first.day))} cy={FLOOR} r="4" fill="currentColor" />
      <text x={x(Date.parse(first.day)) + 6} y={TOP - 10} fontSize="11.5" fill="currentColor">
        {met}
      </text>
      <line
        x1={x(now)}
        x2={x(now)}
        y1={TOP - 4}
        y2={FLOOR + 6}
        stroke="var(--color-accent)"
        strokeWidth="2"
      />
      <text x={x(now) - 4} y={FLOOR + 20} textAnchor="end" fontSize="11.5" fill="currentColor">
        {t("{{last}} open", { last })}
      </text>
      {due && (
        <g>
          <line
            x1={x(Date.parse(due))}
            x2={x(Date.parse(due))}
            y1={TOP - 4}
            y2={FLOOR + 6}
            stroke="var(--color-error)"
            strokeWidth="2"
            strokeDasharray="3 3"
          />
          <text
            x={x(Date.parse(due)) + 5}
            y={TOP + 4}
            fontSize="11.5"
            fill="var(--color-error)"
            stroke="var(--color-base-100)"
            strokeWidth="3"
            paintOrder="stroke"
          >
            {t("promised {{due}}", { due: shortDay(due) })}
          </text>
        </g>
      )}
      {half && (
        <text x={WIDTH / 2} y={FLOOR + 20} textAnchor="middle" fontSize="11.5" fill="var(--ink-2)">
          {half}
        </text>
      )}
    </svg>
  );
}
