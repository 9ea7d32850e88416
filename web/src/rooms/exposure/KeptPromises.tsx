import { useQuery } from "@tanstack/react-query";
import { Link } from "@tanstack/react-router";
import { useState } from "react";
import { asks } from "../../api/asking";
import type { Schemas } from "../../api/client";
import { both } from "../../parts/ask/written";
import { count, day, plural, shortDay } from "../../parts/format";
import { Grade } from "../../parts/Graded";
import { Unanswered } from "../../parts/Problem";
import { Table } from "../../parts/table/Table";
import { t, word } from "../../words";
import type { Asked } from "./asked";

type Row = Schemas["KeptRow"];
type Fared = "kept" | "late";
interface Opened {
  grade: "act now" | "this week" | "this month" | "watch";
  fared: Fared;
}

const SPANS = [30, 90, 365] as const;

/** How promises fared: what ended in time and late, and how what is open stands to them. */
export function KeptPromises({ filter, at }: Asked) {
  const [days, setDays] = useState<number>(90);
  const [opened, setOpened] = useState<Opened | null>(null);
  const asked = useQuery({
    ...asks("/api/exposure/promises", { params: { query: { filter, as_of: at, days } } }),
    placeholderData: (before) => before,
  });
  if (asked.error || !asked.data)
    return <Unanswered asked={asked} what={t("Holding what ended against promises …")} />;
  const open = (row: Row, fared: Fared, number: number) =>
    number === 0 ? (
      "0"
    ) : (
      <button
        type="button"
        className="link-quiet"
        aria-label={t("{{grade}}: {{number}} ended {{which}}", {
          grade: word(row.grade),
          number,
          which: fared === "kept" ? t("in time") : t("late"),
        })}
        onClick={() => setOpened({ grade: row.grade as Opened["grade"], fared })}
      >
        {count(number)}
      </button>
    );
  const devices = (on: Schemas["DevicesOut"]) => (
    <Link to="/estate" search={{ at, q: both(filter, on.filter) }} className="link-quiet">
      {count(on.devices)}
    </Link>
  );
  return (
    <>
      <div className="flex flex-wrap items-center gap-2 pb-2.5">
        <span className="dim text-[13px]">{t("Ended within the last")}</span>
        {SPANS.map((n) => (
          <button
            key={n}
            type="button"
            aria-pressed={days === n}
            className={`btn btn-sm ${days === n ? "btn-primary" : ""}`}
            onClick={() => setDays(n)}
          >
            {n === 365 ? t("year") : t("{{n}} days", { n })}
          </button>
        ))}
        <Link to="/exposure/grading" search={{ at }} className="btn btn-sm ml-auto">
          {t("Grades and promises")}
        </Link>
      </div>
      <div className="sheet overflow-x-auto">
        <Table
          list="kept-promises"
          label={t("Kept promises")}
          rows={asked.data.rows}
          rowKey={(r) => r.grade}
          columns={[
            {
              key: "grade",
              label: t("Asked for"),
              of: (r) => word(r.grade),
              cell: (r) => <Grade grade={r.grade} />,
            },
            {
              key: "promised",
              label: t("Promised within"),
              of: (r) => r.promised,
              cell: (r) =>
                r.promised === null ? (
                  <span className="faint">{t("no promise")}</span>
                ) : (
                  plural(r.promised, "day")
                ),
            },
            {
              key: "kept",
              label: t("Ended in time"),
              of: (r) => r.kept,
              cell: (r) => open(r, "kept", r.kept),
              num: true,
            },
            {
              key: "broken",
              label: t("Ended late"),
              of: (r) => r.broken,
              cell: (r) => open(r, "late", r.broken),
              num: true,
            },
            {
              key: "share",
              label: t("Kept"),
              of: (r) => (r.kept + r.broken ? Math.round((100 * r.kept) / (r.kept + r.broken)) : null),
              cell: (r) =>
                r.promised !== null && r.kept + r.broken ? (
                  <Share kept={r.kept} of={r.kept + r.broken} />
                ) : (
                  ""
                ),
            },
            {
              key: "half",
              label: t("Half within"),
              of: (r) => r.half_days,
              cell: (r) => (r.half_days === null ? "" : t("{{half_days}} days", { half_days: r.half_days })),
              num: true,
              meaning: t("days after which half of those that ended had ended"),
            },
            {
              key: "open",
              label: t("Open, in time"),
              of: (r) => r.open_in_time.devices,
              cell: (r) => devices(r.open_in_time),
              num: true,
              meaning: t("devices with something open whose promised day has not come"),
            },
            {
              key: "late",
              label: t("Open, late"),
              of: (r) => r.open_late.devices,
              cell: (r) => devices(r.open_late),
              num: true,
              meaning: t("devices with something open past its promised day"),
            },
          ]}
        />
      </div>
      <p className="dim max-w-3xl pt-2 text-[12.5px]">
        {t(
          "A finding is a device and an advisory or a rule. Its clock begins when the device is open to it and stops for nothing but being accepted; only a reading ends it.",
        )}
      </p>
      {opened && <Ended {...opened} filter={filter} at={at} days={days} />}
    </>
  );
}

function Share({ kept, of }: { kept: number; of: number }) {
  const part = Math.round((100 * kept) / of);
  return (
    <span className="flex items-center gap-2 whitespace-nowrap">
      <span className="relative block h-2 w-20 overflow-hidden rounded-sm bg-base-300">
        <span className="absolute inset-y-0 left-0" style={{ width: `${part}%`, background: "var(--s2)" }} />
      </span>
      {part} %
    </span>
  );
}

function Ended({ grade, fared, filter, at, days }: Opened & Asked & { days: number }) {
  const asked = useQuery(
    asks("/api/exposure/promises/ended", { params: { query: { grade, fared, filter, as_of: at, days } } }),
  );
  return (
    <section className="pt-4" aria-label={t("Findings that ended")}>
      <h2 className="pb-2 text-[14px] font-semibold">
        {t("{{grade}}, ended {{which}}", { grade, which: fared === "kept" ? t("in time") : t("late") })}
      </h2>
      {asked.error || !asked.data ? (
        <Unanswered asked={asked} what={t("Looking for them …")} />
      ) : (
        <div className="sheet overflow-x-auto">
          <Table
            list="ended-findings"
            label={t("Findings that ended")}
            rows={asked.data}
            rowKey={(e) => `${e.asset} ${e.advisory} ${e.until}`}
            columns={[
              {
                key: "device",
                label: t("Device"),
                of: (e) => e.device,
                cell: (e) => (
                  <Link
                    to="/assets/$asset"
                    params={{ asset: String(e.asset) }}
                    search={{ at }}
                    className="link-quiet font-semibold"
                  >
                    {e.device}
                  </Link>
                ),
              },
              { key: "advisory", label: t("Open to"), of: (e) => e.advisory, mono: true },
              {
                key: "since",
                label: t("From"),
                of: (e) => e.since.slice(0, 10),
                cell: (e) => shortDay(e.since),
              },
              { key: "until", label: t("Until"), of: (e) => e.until.slice(0, 10), cell: (e) => day(e.until) },
              {
                key: "due",
                label: t("Promised by"),
                of: (e) => e.due?.slice(0, 10),
                cell: (e) => (e.due ? shortDay(e.due) : ""),
              },
              { key: "days", label: t("Days"), of: (e) => e.days, num: true },
              { key: "how", label: t("How it ended"), of: (e) => word(e.how) },
            ]}
          />
        </div>
      )}
    </section>
  );
}
