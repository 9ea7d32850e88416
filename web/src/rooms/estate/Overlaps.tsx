import type { Schemas } from "../../api/client";
import { count, plural } from "../../parts/format";
import { Table } from "../../parts/table/Table";
import { t } from "../../words";

type Data = Schemas["CrossCheckOut"];

const MOST = 14;
const STEP = 40;
const BARS = 132;
const ROW = 30;
const LEFT = 212;

/** The overlaps of sources (UpSet: Lex et al., 2014): a column a combination, a row a source. */
export function Overlaps(props: { data: Data; picked: number | null; pick: (mask: number | null) => void }) {
  const { data, picked, pick } = props;
  const shown = data.patterns.slice(0, MOST);
  const rest = data.patterns.slice(MOST);
  const most = Math.max(1, ...shown.map((p) => p.count));
  const height = BARS + 24 + data.sources.length * ROW + 6;
  const width = LEFT + shown.length * STEP + 12;
  const y = (i: number) => BARS + 24 + i * ROW + ROW / 2;
  return (
    <>
      <div className="overflow-x-auto">
        <svg
          viewBox={`0 0 ${width} ${height}`}
          width={width}
          height={height}
          role="group"
          aria-label={t("Overlaps")}
        >
          {data.sources.map((s, i) => (
            <g key={s.name}>
              {i % 2 === 0 && (
                <rect x="0" y={y(i) - ROW / 2} width={width} height={ROW} fill="var(--color-base-200)" />
              )}
              <text x="8" y={y(i) + 4.5} fontSize="13" fill="currentColor">
                {s.name.length > 22 ? `${s.name.slice(0, 21)}…` : s.name}
              </text>
              <text x={LEFT - 16} y={y(i) + 4.5} fontSize="13" textAnchor="end" fill="var(--ink-3)">
                {count(s.count)}
              </text>
            </g>
          ))}
          {shown.map((p, column) => {
            const x = LEFT + column * STEP + STEP / 2;
            const bar = Math.max(2, (p.count / most) * (BARS - 18));
            const alone = p.members.length <= 1;
            const tone = alone ? "var(--color-accent)" : "var(--color-info)";
            const names = p.members.map((i) => data.sources[i]?.name ?? "").join(", ");
            const first = p.members[0];
            const last = p.members[p.members.length - 1];
            return (
              <g
                key={p.mask}
                role="button"
                tabIndex={0}
                aria-pressed={picked === p.mask}
                aria-label={t("{{devices}} seen by {{names}}{{which}}", {
                  devices: plural(p.count, "device"),
                  names: names || t("none of these"),
                  which: alone ? " alone" : "",
                })}
                className="cursor-pointer outline-offset-2"
                onClick={() => pick(picked === p.mask ? null : p.mask)}
                onKeyDown={(e) => {
                  if (e.key === "Enter" || e.key === " ") {
                    e.preventDefault();
                    pick(picked === p.mask ? null : p.mask);
                  }
                }}
              >
                <rect
                  x={x - STEP / 2 + 2}
                  y="0"
                  width={STEP - 4}
                  height={height}
                  rx="4"
                  fill={picked === p.mask ? "var(--color-accent)" : "transparent"}
                  opacity="0.25"
                />
                <text x={x} y={BARS - bar - 5} fontSize="12.5" textAnchor="middle" fill="currentColor">
                  {count(p.count)}
                </text>
                <rect x={x - 11} y={BARS - bar} width="22" height={bar} rx="2.5" fill={tone} />
                {data.sources.map((s, i) => (
                  <circle key={s.name} cx={x} cy={y(i)} r="6.5" fill="var(--color-base-300)" />
                ))}
                {first !== undefined && last !== undefined && (
                  <line x1={x} x2={x} y1={y(first)} y2={y(last)} stroke={tone} strokeWidth="3" />
                )}
                {p.members.map((i) => (
                  <circle key={i} cx={x} cy={y(i)} r="6.5" fill={tone} />
                ))}
              </g>
            );
          })}
        </svg>
      </div>
      <details className="dim mt-1 text-[12.5px]">
        <summary>
          {t("As a table{{which}}", {
            which: rest.length > 0 ? t(", with {{rest}} smaller combinations", { rest: rest.length }) : "",
          })}
        </summary>
        <Table
          list="overlaps"
          label={t("Which sources see how many")}
          rows={data.patterns}
          rowKey={(p) => p.mask}
          columns={[
            {
              key: "seen_by",
              label: t("Seen by"),
              of: (p) => p.members.map((i) => data.sources[i]?.name).join(", "),
              cell: (p) => p.members.map((i) => data.sources[i]?.name).join(", ") || t("none of these"),
            },
            {
              key: "devices",
              label: t("Devices"),
              of: (p) => p.count,
              cell: (p) => (
                <button type="button" className="link-quiet" onClick={() => pick(p.mask)}>
                  {count(p.count)}
                </button>
              ),
              num: true,
            },
          ]}
        />
      </details>
    </>
  );
}
