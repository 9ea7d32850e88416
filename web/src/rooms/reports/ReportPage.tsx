import { useQuery } from "@tanstack/react-query";
import { Link, useNavigate, useParams } from "@tanstack/react-router";
import { useState } from "react";
import { asks } from "../../api/asking";
import { client, narrowed, ok } from "../../api/client";
import { dialWords, useDial } from "../../parts/dial";
import { count, plural } from "../../parts/format";
import { useMay } from "../../parts/me";
import { Empty, Unanswered } from "../../parts/Problem";
import { useDone } from "../../parts/Sheet";
import { t } from "../../words";
import { GroupBars, Lines } from "./Lines";
import { WatchForm } from "./WatchForm";

const FILES: [string, string][] = [
  ["xlsx", t("Workbook (XLSX)")],
  ["ods", t("OpenDocument (ODS)")],
  ["csv", "CSV"],
  ["json", "JSON"],
  ["html", t("Page for print (HTML)")],
  ["pdf", "PDF"],
];

/** One report: what it asks in words, its lines as of the dial, its files. */
export function ReportPage() {
  const { report } = useParams({ strict: false }) as { report: string };
  const { at } = useDial();
  const navigate = useNavigate();
  const done = useDone("reports");
  const [watching, setWatching] = useState(false);
  const may = useMay("keep");
  const asked = useQuery(
    asks("/api/reports/shown/{key}", { params: { path: { key: report }, query: { as_of: at } } }),
  );
  if (asked.error || !asked.data) return <Unanswered asked={asked} what={t("Asking …")} />;
  const r = asked.data;
  const rows = r.lines.filter((l) => l.kind === "row").length;
  const whole = r.lines.find((l) => l.kind === "whole")?.rows ?? rows;
  const drop = async () => {
    if (
      !window.confirm(
        t("Drop the report “{{name}}”? Watches on it will say that it is gone.", { name: r.name }),
      )
    )
      return;
    const dropped = await done(
      () =>
        ok(client.DELETE("/api/reports/composed/{number}", { params: { path: { number: Number(r.key) } } })),
      t("“{{name}}” is dropped.", { name: r.name }),
    );
    if (dropped) await navigate({ to: "/reports", search: { at } });
  };
  return (
    <div className="mx-auto w-full max-w-[1400px] px-4 pb-10">
      <p className="dim pt-3 text-[13px]">
        <Link to="/reports" search={{ at }} className="link-quiet">
          {t("Reports")}
        </Link>{" "}
        · {r.room}
      </p>
      <div className="flex flex-wrap items-center gap-x-4 gap-y-2">
        <h1>{r.name}</h1>
        <span className="flex-1" />
        <div>
          <button
            type="button"
            popoverTarget="files"
            style={{ anchorName: "--files" } as React.CSSProperties}
            className="btn btn-sm"
          >
            {t("Files")}
          </button>
          <div
            id="files"
            popover="auto"
            className="dropdown dropdown-end sheet w-56 p-2 shadow-lg"
            style={{ positionAnchor: "--files" } as React.CSSProperties}
          >
            {FILES.map(([format, words]) => (
              <a
                key={format}
                className="block rounded px-2 py-1.5 text-[13px] hover:bg-[var(--head)]"
                href={narrowed(`/api/reports/shown/${r.key}/${format}${at ? `?as_of=${at}` : ""}`)}
                download
              >
                {words}
              </a>
            ))}
          </div>
        </div>
        {may && !at && (
          <>
            {!r.ships && (
              <button type="button" className="btn btn-sm text-error" onClick={() => void drop()}>
                {t("Drop")}
              </button>
            )}
            <Link to="/reports/compose" search={{ from: r.key }} className="btn btn-sm">
              {r.ships ? t("Copy and change") : t("Change")}
            </Link>
            <button type="button" className="btn btn-primary btn-sm" onClick={() => setWatching(true)}>
              {t("Watch it")}
            </button>
          </>
        )}
      </div>
      <p className="dim pt-1 pb-3 text-[13.5px]">
        {r.text && <span className="mr-2 text-base-content">{r.text}</span>}
        <b className="text-base-content">
          {r.cut ? t("more than {{rows}} rows", { rows: count(rows) }) : plural(whole, "row")}
        </b>{" "}
        — {r.sentence}
        {r.definition.inner ? (
          <>
            {t(", each")} <span className="mono">{String(r.definition.inner)}</span>
          </>
        ) : null}
        {at ? `, ${dialWords(at)}` : ""}.{r.cut && t(" The screen shows the first; the files have all.")}
      </p>
      {r.lines.length === 0 || whole === 0 ? (
        <Empty title={t("Nothing to report.")}>
          {at ? t("On that day nothing answered.") : t("No device answers this question now.")}
        </Empty>
      ) : (
        <>
          <GroupBars lines={r.lines} />
          <Lines report={r} at={at} name={r.name} />
        </>
      )}
      {watching && <WatchForm held={null} report={r.key} name={r.name} close={() => setWatching(false)} />}
    </div>
  );
}
