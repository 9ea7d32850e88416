import { useQuery } from "@tanstack/react-query";
import { Link, useNavigate, useSearch } from "@tanstack/react-router";
import { Suspense, useState } from "react";
import { asks } from "../../api/asking";
import { useDial } from "../../parts/dial";
import { useMay } from "../../parts/me";
import { Unanswered, Waiting } from "../../parts/Problem";
import { Sheet } from "../../parts/Sheet";
import { Table } from "../../parts/table/Table";
import type { Search } from "../../search";
import { t } from "../../words";
import { useRowWords } from "./composing";
import { Mailbox } from "./Mailbox";
import { Watches } from "./Watches";

const VIEWS: [string | undefined, string, string][] = [
  [
    undefined,
    t("Reports"),
    t("questions with columns, groups and figures; every one can be copied and changed"),
  ],
  ["watches", t("Watches"), t("reports asked on a schedule that write when the answer says so")],
  ["mailbox", t("Mailbox"), t("mail delivered here")],
];

/** A view that another room has. */
export interface ReportView {
  key: string;
  label: string;
  hint: string;
  Shown: React.ComponentType;
}

/** Reports, watches, and the mail they wrote. */
export function Reports({ more }: { more: ReportView[] }) {
  const { tab } = useSearch({ strict: false }) as Search;
  const navigate = useNavigate();
  const views = [...VIEWS, ...more.map((m): (typeof VIEWS)[number] => [m.key, m.label, m.hint])];
  const view = views.find(([key]) => key === tab) ?? VIEWS[0];
  const other = more.find((m) => m.key === tab);
  return (
    <div className="mx-auto w-full max-w-[1280px] px-4 pb-10">
      <div className="flex flex-wrap items-baseline gap-x-4 gap-y-1 pt-3.5 pb-2">
        <h1>{t("Reports")}</h1>
        <span className="dim text-[13.5px]">{view?.[2]}</span>
      </div>
      <nav aria-label={t("Views of reports")} className="mb-3 flex flex-wrap gap-1 border-b border-base-300">
        {views.map(([key, label]) => (
          <button
            key={label}
            type="button"
            aria-pressed={tab === key}
            onClick={() =>
              void navigate({
                to: "/reports",
                search: ((before: Search) => ({ at: before.at, tab: key })) as never,
              })
            }
            className={`-mb-px rounded-t-[8px] px-3 py-1.5 text-[13px] font-semibold ${
              tab === key ? "border border-b-0 border-base-300 bg-base-100 text-primary" : "dim"
            }`}
          >
            {label}
          </button>
        ))}
      </nav>
      {tab === undefined && <List />}
      {tab === "watches" && <Watches />}
      {tab === "mailbox" && <Mailbox />}
      {other && (
        <Suspense fallback={<Waiting what={t("Opening …")} />}>
          <other.Shown />
        </Suspense>
      )}
    </div>
  );
}

function List() {
  const [find, setFind] = useState("");
  const [room, setRoom] = useState("");
  const { at } = useDial();
  const maySql = useMay("statements");
  const may = useMay("keep");
  const rowWords = useRowWords();
  const asked = useQuery(asks("/api/reports/list"));
  if (asked.error || !asked.data) return <Unanswered asked={asked} what={t("Reading the reports …")} />;
  const rooms = [...new Set(asked.data.map((r) => r.room))];
  const wanted = find.trim().toLowerCase();
  const shown = asked.data.filter(
    (r) => (!room || r.room === room) && (!wanted || `${r.name} ${r.text}`.toLowerCase().includes(wanted)),
  );
  const groups: [string, typeof shown][] = [
    [t("Composed here"), shown.filter((r) => !r.ships)],
    ...rooms.map((name): [string, typeof shown] => [name, shown.filter((r) => r.ships && r.room === name)]),
  ];
  return (
    <>
      <div className="flex flex-wrap items-center gap-2 pb-2.5">
        <input
          type="search"
          className="input input-sm w-56"
          placeholder={t("Find a report")}
          aria-label={t("Find a report")}
          value={find}
          onChange={(e) => setFind(e.target.value)}
        />
        {["", ...rooms].map((name) => (
          <button
            key={name}
            type="button"
            aria-pressed={room === name}
            className={`btn btn-sm ${room === name ? "btn-primary" : ""}`}
            onClick={() => setRoom(name)}
          >
            {name || t("All rooms")}
          </button>
        ))}
        <span className="flex-1" />
        {may && (
          <>
            {maySql && (
              <Link to="/reports/sql" search={{}} className="btn btn-sm">
                {t("SQL")}
              </Link>
            )}
            <Link to="/reports/compose" search={{ at }} className="btn btn-primary btn-sm">
              {t("Compose a report")}
            </Link>
          </>
        )}
      </div>
      {groups
        .filter(([, several]) => several.length > 0)
        .map(([name, several]) => (
          <Sheet key={name} id={`reports-${name}`} title={name} className="mb-3">
            <Table
              list="reports"
              label={name}
              rows={several}
              rowKey={(r) => r.key}
              columns={[
                {
                  key: "report",
                  label: t("Report"),
                  of: (r) => r.name,
                  cell: (r) => (
                    <Link
                      to="/reports/$report"
                      params={{ report: r.key }}
                      search={{ at }}
                      className="link-quiet font-semibold"
                    >
                      {r.name}
                    </Link>
                  ),
                  className: "w-[30%]",
                },
                {
                  key: "what_it_tells",
                  label: t("What it tells"),
                  of: (r) => r.text || (r.made_by && t("composed by {{made_by}}", { made_by: r.made_by })),
                  cell: (r) => r.text || (r.made_by && t("composed by {{made_by}}", { made_by: r.made_by })),
                  className: "dim",
                },
                {
                  key: "a_row_is",
                  label: t("A row is"),
                  of: (r) => rowWords(r.row),
                  className: "faint w-[16%]",
                },
              ]}
            />
          </Sheet>
        ))}
      {shown.length === 0 && (
        <p className="dim py-6">{t("No report fits. Take a narrowing off, or compose one.")}</p>
      )}
    </>
  );
}
