import type { RibbonDay } from "../api/types";
import { LOCALE, t } from "../words";
import { companyDay } from "./days";

interface Props {
  days: RibbonDay[];
  from: Date;
  to: Date;
  at: Date;
  height?: number;
  onPick?: (day: string | null) => void;
}

const GROUPS = [
  ["software", "var(--color-info)", "software"],
  ["hardware", "var(--color-accent)", t("hardware and settings")],
  ["facts", "var(--color-secondary)", t("what it is held to be")],
] as const;

const month = new Intl.DateTimeFormat(LOCALE, { month: "short" });
const DAY = 86_400_000;

function isoDay(time: number): string {
  return companyDay(time);
}

/** A stretch of time with its changes; where `onPick` is given, dragging turns the dial. */
export function Ribbon({ days, from, to, at, height = 52, onPick }: Props) {
  const span = to.getTime() - from.getTime();
  const place = (time: number) => (100 * (time - from.getTime())) / span;
  const months: { left: number; name: string }[] = [];
  const cursor = new Date(from.getFullYear(), from.getMonth() + 1, 1);
  while (cursor < to) {
    months.push({ left: place(cursor.getTime()), name: month.format(cursor) });
    cursor.setMonth(cursor.getMonth() + 1);
  }
  const pickAt = (clientX: number, element: HTMLElement) => {
    if (!onPick) return;
    const box = element.getBoundingClientRect();
    const share = Math.min(1, Math.max(0, (clientX - box.left) / box.width));
    const time = from.getTime() + share * span;
    onPick(to.getTime() - time < DAY ? null : isoDay(time));
  };
  const total = days.reduce((n, d) => n + (d.software ?? 0) + (d.facts ?? 0) + (d.hardware ?? 0), 0);
  const move = (step: number) => {
    const time = at.getTime() + step * DAY;
    onPick?.(to.getTime() - time < DAY ? null : isoDay(Math.max(from.getTime() + DAY, time)));
  };
  return (
    <div
      className={`relative select-none ${onPick ? "cursor-ew-resize touch-none" : ""}`}
      style={{ height }}
      role={onPick ? "slider" : "img"}
      tabIndex={onPick ? 0 : undefined}
      aria-label={
        onPick
          ? t("Drag to see it as it was")
          : t("{{total}} changes between {{getTime}} and {{getTime2}}", {
              total,
              getTime: isoDay(from.getTime()),
              getTime2: isoDay(to.getTime()),
            })
      }
      aria-valuemin={onPick ? 0 : undefined}
      aria-valuemax={onPick ? Math.round(span / DAY) : undefined}
      aria-valuenow={onPick ? Math.round((at.getTime() - from.getTime()) / DAY) : undefined}
      aria-valuetext={onPick ? isoDay(at.getTime()) : undefined}
      onPointerDown={(e) => {
        if (!onPick) return;
        e.currentTarget.setPointerCapture(e.pointerId);
      }}
      onPointerUp={(e) => pickAt(e.clientX, e.currentTarget)}
      onKeyDown={(e) => {
        const steps: Record<string, number> = { ArrowLeft: -1, ArrowRight: 1, PageDown: -30, PageUp: 30 };
        const step = steps[e.key];
        if (step !== undefined) {
          e.preventDefault();
          move(step);
        }
      }}
    >
      <div className="absolute inset-x-0 h-[2px] bg-base-300" style={{ top: height - 22 }} />
      {days.map((d) => {
        const time = new Date(`${d.day}T12:00:00Z`).getTime();
        if (time < from.getTime() || time > to.getTime() + DAY) return null;
        let stacked = 0;
        return GROUPS.map(([key, colour, says]) => {
          const n = d[key] ?? 0;
          if (!n) return null;
          const tall = Math.min(14, 5 + Math.log2(n + 1) * 3);
          const top = height - 22 - tall - stacked + 1;
          stacked += tall + 1;
          return (
            <i
              key={`${d.day}${key}`}
              title={t("{{day}}: {{n}} {{which}} of {{says}}", {
                day: d.day,
                n,
                which: n === 1 ? t("change") : t("changes"),
                says,
              })}
              className="absolute w-[7px] rounded-[2px]"
              style={{
                left: `calc(${Math.min(99.2, place(time))}% - 3px)`,
                top,
                height: tall,
                background: colour,
              }}
            />
          );
        });
      })}
      {months.map((m) => (
        <small
          key={m.left}
          className="faint absolute -translate-x-1/2 text-[10.5px]"
          style={{ left: `${m.left}%`, top: height - 16 }}
        >
          {m.name}
        </small>
      ))}
      <u
        className="absolute inset-y-0 w-[2px] bg-accent"
        style={{ left: `${Math.min(99.8, place(at.getTime()))}%`, bottom: 14 }}
      />
    </div>
  );
}

export function RibbonLegend() {
  return (
    <span className="faint flex flex-wrap gap-x-3 text-[11.5px]">
      {GROUPS.map(([key, colour, says]) => (
        <span key={key} className="inline-flex items-center gap-1">
          <i className="inline-block h-2 w-2 rounded-[2px]" style={{ background: colour }} /> {says}
        </span>
      ))}
    </span>
  );
}
