import type { Schemas } from "../../api/client";
import { moment } from "../../parts/format";
import { LOCALE, t } from "../../words";

type Event = Schemas["InquiryEvent"];

interface Props {
  events: Event[];
  since: string;
  until: string;
  name: string;
}

const [WIDTH, HEIGHT, DAY] = [260, 34, 86_400_000];
const INK = { bad: "var(--color-error)", warn: "var(--color-warning-content)", "": "var(--color-primary)" };

/** What happened to one device, on the clock all of them share; a list says the same to who cannot see it. */
export function Clock({ events, since, until, name }: Props) {
  const [from, to] = [new Date(since).getTime(), new Date(until).getTime()];
  const x = (at: number) => 4 + ((at - from) / Math.max(1, to - from)) * (WIDTH - 8);
  const days: number[] = [];
  for (let day = Math.ceil(from / DAY) * DAY; day <= to; day += DAY) days.push(day);
  return (
    <>
      <svg viewBox={`0 0 ${WIDTH} ${HEIGHT}`} className="w-full max-w-80" aria-hidden="true">
        <line x1="4" x2={WIDTH - 4} y1="12" y2="12" stroke="var(--color-base-300)" />
        {days.map((day) => (
          <g key={day}>
            <line x1={x(day)} x2={x(day)} y1="6" y2="18" stroke="var(--color-base-300)" />
            {new Date(day).getUTCDay() === 1 && (
              <text x={x(day)} y="30" textAnchor="middle" className="fill-base-content text-[9px] opacity-70">
                {new Date(day).toLocaleDateString(LOCALE, {
                  day: "numeric",
                  month: "short",
                  timeZone: "UTC",
                })}
              </text>
            )}
          </g>
        ))}
        <line x1={WIDTH - 4} x2={WIDTH - 4} y1="3" y2="21" stroke="var(--color-accent)" strokeWidth="1.5" />
        {events.map((e) => (
          <rect
            key={`${e.at} ${e.text}`}
            x={x(new Date(e.at).getTime()) - 2.5}
            y="7"
            width="5"
            height="10"
            rx="1.5"
            fill={INK[e.grade]}
          >
            <title>{`${moment(e.at)}: ${e.text}`}</title>
          </rect>
        ))}
      </svg>
      <ul className="sr-only" aria-label={t("What happened to {{name}}", { name })}>
        {events.map((e) => (
          <li key={`${e.at} ${e.text}`}>
            {moment(e.at)}: {e.text}
          </li>
        ))}
      </ul>
    </>
  );
}
