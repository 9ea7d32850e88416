import { useQuery } from "@tanstack/react-query";
import { Link } from "@tanstack/react-router";
import { asks } from "../../api/asking";
import type { Schemas } from "../../api/client";
import { capital, count, plural, shortDay } from "../../parts/format";
import { GRADES } from "../../parts/Graded";
import { Unanswered } from "../../parts/Problem";
import { Table } from "../../parts/table/Table";
import { t, word } from "../../words";

type Month = Schemas["ExposureOnDay"];

const FILLS: Record<string, string> = {
  "act now": "var(--color-error)",
  "this week": "var(--color-accent)",
  "this month": "var(--s5)",
  watch: "var(--s3)",
};

/** What was open month by month for a year back, each as it was known on its day. */
export function OverTheYear({ filter, at }: { filter: string; at: string | undefined }) {
  const asked = useQuery({
    ...asks("/api/exposure/year", { params: { query: { filter, as_of: at } } }),
    placeholderData: (before) => before,
  });
  if (asked.error || !asked.data) return <Unanswered asked={asked} what={t("Going back over the year …")} />;
  const most = Math.max(1, ...asked.data.days.map((m) => m.stood.open));
  const devices = (on: (s: Month["stood"]) => Schemas["DevicesOut"]) => ({
    of: (m: Month) => on(m.stood).devices,
    cell: (m: Month) => (
      <Link to="/estate" search={{ at: m.day ?? undefined, q: on(m.stood).filter }} className="link-quiet">
        {count(on(m.stood).devices)}
      </Link>
    ),
    num: true,
  });
  return (
    <>
      <p className="dim flex flex-wrap gap-x-4 pb-2.5 text-[13px]">
        {GRADES.map((g) => (
          <span key={g} className="flex items-center gap-1.5">
            <span className="inline-block size-3" style={{ background: FILLS[g] }} /> {word(g)}
          </span>
        ))}
        {asked.data.since && (
          <span>
            {t("Before {{since}} no feed had told of anything.", { since: shortDay(asked.data.since) })}
          </span>
        )}
      </p>
      <div className="sheet overflow-x-auto">
        <Table
          list="exposure-year"
          label={t("What was open over the year")}
          rows={asked.data.days}
          rowKey={(m) => m.day ?? "now"}
          columns={[
            {
              key: "day",
              label: t("On"),
              of: (m) => m.day ?? t("now"),
              cell: (m) => (
                <Link
                  to="/exposure"
                  search={{ at: m.day ?? undefined, q: filter || undefined }}
                  className="link-quiet font-semibold whitespace-nowrap"
                >
                  {m.day ? shortDay(m.day) : t("now")}
                </Link>
              ),
            },
            {
              key: "advisories",
              label: t("Advisories"),
              of: (m) => m.stood.advisories,
              cell: (m) => count(m.stood.advisories),
              num: true,
              meaning: t("that touched these devices"),
            },
            { key: "on", label: t("Devices open"), ...devices((s) => s.on) },
            { key: "used", label: t("To what is in use"), ...devices((s) => s.used_on) },
            { key: "late", label: t("Past a promised day"), ...devices((s) => s.late_on) },
            {
              key: "open",
              label: t("Open, by what it asks for"),
              of: (m) => m.stood.open,
              cell: (m) => <Stacked grades={m.stood.grades} most={most} />,
              meaning: t("pairs of a device and an advisory"),
            },
          ]}
        />
      </div>
    </>
  );
}

function Stacked({ grades, most }: { grades: Record<string, number>; most: number }) {
  const told = GRADES.map((g) => [g, grades[g] ?? 0] as const).filter(([, n]) => n > 0);
  const all = told.reduce((sum, [, n]) => sum + n, 0);
  const words = told.map(([g, n]) => `${count(n)} ${word(g)}`).join(", ");
  return (
    <span className="flex items-center gap-2" title={capital(words) || undefined}>
      <span
        className="flex h-3.5 w-72 gap-px"
        role="img"
        aria-label={`${plural(all, "finding")}${words && `: ${words}`}`}
      >
        {told.map(([g, n]) => (
          <span key={g} style={{ width: `${(100 * n) / most}%`, background: FILLS[g] }} />
        ))}
      </span>
      <span className="tabular-nums">{count(all)}</span>
    </span>
  );
}
