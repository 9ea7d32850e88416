import { useQuery } from "@tanstack/react-query";
import { Link } from "@tanstack/react-router";
import { useRef } from "react";
import { toast } from "sonner";
import { asks } from "../../api/asking";
import { client, ok } from "../../api/client";
import { useDial } from "../../parts/dial";
import { count, iso, moment, plural } from "../../parts/format";
import { useMay } from "../../parts/me";
import { Unanswered } from "../../parts/Problem";
import { useDone } from "../../parts/Sheet";
import { Table } from "../../parts/table/Table";
import { t } from "../../words";
import { RunState, refusedOf } from "./Runs";

/** The feeds: where documents of advisories come from, how fresh each is, and what was refused. */
export function Feeds() {
  const mayPlan = useMay("plan") && !useDial().at;
  const asked = useQuery({
    ...asks("/api/feeds"),
    refetchInterval: (q) =>
      q.state.data?.some((f) => ["waiting", "running"].includes(f.last_run?.state ?? "")) ? 1000 : false,
  });
  if (asked.error || !asked.data) return <Unanswered asked={asked} what={t("Looking at the feeds …")} />;
  return (
    <div className="mx-auto w-full max-w-[1280px] px-4 pb-10">
      <p className="dim pt-3 text-[13px]">
        <Link to="/exposure" search={{}} className="link-quiet">
          {t("Exposure")}
        </Link>
      </p>
      <div className="flex flex-wrap items-center gap-3 pb-3">
        <h1>{t("Feeds")}</h1>
        <span className="dim text-[13.5px]">
          {t("CVE records, NVD, OSV, CSAF, CycloneDX, OpenVEX, EPSS, lists of use, ends of support")}
        </span>
        <span className="flex-1" />
        {mayPlan && (
          <>
            <Bring />
            <Link
              to="/exposure/feeds/$feed"
              params={{ feed: "new" }}
              search={{}}
              className="btn btn-primary btn-sm"
            >
              {t("New feed")}
            </Link>
          </>
        )}
      </div>
      <div className="sheet overflow-x-auto">
        <Table
          list="feeds"
          label={t("Feeds")}
          rows={asked.data}
          rowKey={(f) => f.id}
          foot={
            asked.data.length === 0 ? (
              <tfoot>
                <tr>
                  <td colSpan={8} className="dim py-6 text-center">
                    {t("No feed yet: make one, or bring a file.")}
                  </td>
                </tr>
              </tfoot>
            ) : undefined
          }
          columns={[
            {
              key: "name",
              label: t("Feed"),
              of: (f) => f.name,
              cell: (f) => (
                <Link
                  to="/exposure/feeds/$feed"
                  params={{ feed: String(f.id) }}
                  search={{}}
                  className="link-quiet font-semibold"
                >
                  {f.name}
                </Link>
              ),
            },
            {
              key: "kind",
              label: t("Kind"),
              of: (f) => (f.kind === "hand" ? t("brought by people") : f.kind),
            },
            {
              key: "documents",
              label: t("Documents"),
              of: (f) => f.documents,
              cell: (f) => count(f.documents),
              num: true,
            },
            {
              key: "read",
              label: t("Last read"),
              of: (f) => f.last_run && iso(f.last_run.made_at),
              cell: (f) =>
                f.last_run ? moment(iso(f.last_run.made_at)) : <span className="faint">{t("never")}</span>,
              className: "whitespace-nowrap",
            },
            {
              key: "state",
              label: t("How it went"),
              of: (f) => f.last_run?.state,
              cell: (f) => f.last_run && <RunState state={f.last_run.state} />,
            },
            {
              key: "new",
              label: t("New or changed"),
              of: (f) => (f.last_run?.counts.new ?? 0) + (f.last_run?.counts.changed ?? 0),
              num: true,
            },
            {
              key: "refused",
              label: t("Refused"),
              of: (f) => f.last_run?.counts.refused ?? 0,
              cell: (f) => (f.last_run ? refusedOf(f.last_run) : ""),
              num: true,
            },
            {
              key: "schedule",
              label: t("Read"),
              of: (f) => f.schedule_words || t("by hand"),
              className: "dim",
            },
          ]}
        />
      </div>
    </div>
  );
}

/** The way to bring a file of documents. */
function Bring() {
  const file = useRef<HTMLInputElement>(null);
  const done = useDone();
  const bring = (picked: File | undefined) => {
    if (!picked) return;
    const body = new FormData();
    body.append("file", picked);
    void done(async () => {
      const run = await ok(
        client.POST("/api/feeds/documents", { body: body as never, bodySerializer: (b) => b as never }),
      );
      const { counts } = run;
      toast.success(
        t("{{documents}} read: {{new}} new, {{changed}} changed, {{refused}} refused.", {
          documents: plural(counts.read ?? 0, "document"),
          new: counts.new ?? 0,
          changed: counts.changed ?? 0,
          refused: counts.refused ?? 0,
        }),
      );
    });
    if (file.current) file.current.value = "";
  };
  return (
    <>
      <input
        ref={file}
        type="file"
        className="hidden"
        aria-label={t("A file of documents")}
        onChange={(e) => bring(e.target.files?.[0])}
      />
      <button type="button" className="btn btn-sm" onClick={() => file.current?.click()}>
        {t("Bring a file")}
      </button>
    </>
  );
}
