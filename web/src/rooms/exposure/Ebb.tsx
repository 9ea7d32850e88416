import { t } from "../../words";
import { type Change, sentenceOf } from "./changing";

const WIDTH = 840;
const HEIGHT = 132;
const TOP = 22;
const MOST = 12;

/** How what is open falls with each change: a step a change, rust where attackers use what it ends. */
export function Ebb({ open, changes }: { open: number; changes: Change[] }) {
  const steps = changes.slice(0, MOST);
  const wide = (WIDTH - 44) / (steps.length + 1);
  const y = (left: number) => TOP + (HEIGHT - TOP) * (1 - left / open);
  const levels = [open, ...steps.map((c) => c.left)];
  const said = levels.map((left) => `${percent(left, open)} %`).join(", ");
  return (
    <svg
      viewBox={`0 0 ${WIDTH} ${HEIGHT + 6}`}
      className="block w-full min-w-[640px]"
      role="img"
      aria-label={t("What stays open after each change: {{said}}", { said })}
    >
      {[1, 0.5, 0].map((part) => (
        <g key={part}>
          <line
            x1="44"
            x2={WIDTH}
            y1={y(open * part)}
            y2={y(open * part)}
            stroke="var(--line-2)"
            strokeWidth="1"
          />
          {part > 0 && (
            <text x="38" y={y(open * part) + 4} textAnchor="end" fontSize="11" fill="var(--ink-3)">
              {part * 100} %
            </text>
          )}
        </g>
      ))}
      {levels.map((left, n) => (
        <rect
          key={`level-${levels.length - n}`}
          x={44 + n * wide}
          y={y(left)}
          width={wide}
          height={HEIGHT - y(left)}
          fill="var(--s5)"
        />
      ))}
      {steps.map((change, n) => {
        const [before, after] = [levels[n] ?? 0, change.left];
        return (
          <g key={change.key}>
            <rect
              x={44 + (n + 1) * wide - 3}
              y={y(before)}
              width="7"
              height={Math.max(2, y(after) - y(before))}
              fill={change.used > 0 ? "var(--color-error)" : "var(--s1)"}
            >
              <title>
                {t("{{change}}: {{after}} % stays open", {
                  change: sentenceOf(change),
                  after: percent(after, open),
                })}
              </title>
            </rect>
            <text
              x={44 + (n + 1.5) * wide}
              y={y(after) - 5}
              textAnchor="middle"
              fontSize="11.5"
              fill="var(--ink-2)"
            >
              {percent(after, open)} %
            </text>
          </g>
        );
      })}
      <text x={44 + wide / 2} y={TOP - 6} textAnchor="middle" fontSize="11.5" fill="var(--ink-2)">
        {t("all open")}
      </text>
    </svg>
  );
}

function percent(part: number, whole: number): number {
  return Math.round((100 * part) / whole);
}
