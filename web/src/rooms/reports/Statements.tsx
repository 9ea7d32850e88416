import { useQuery } from "@tanstack/react-query";
import { Link } from "@tanstack/react-router";
import { useState } from "react";
import { asks } from "../../api/asking";
import { client, ok, type Schemas } from "../../api/client";
import { useDraft } from "../../parts/draft";
import { TextField } from "../../parts/Form";
import { plural } from "../../parts/format";
import { Problem } from "../../parts/Problem";
import { Sheet } from "../../parts/Sheet";
import { Table } from "../../parts/table/Table";
import { t } from "../../words";

type Answer = Schemas["StatementOut"];
type Cell = string | number | null;

/** Statements of one's own over documented views: read only, ten seconds, ten thousand rows. */
export function Statements() {
  const { v, field, submit, rest, busy } = useDraft({
    statement: t(
      "SELECT place, kind, count(*) AS devices FROM assets\nWHERE standing = 'register' GROUP BY place, kind ORDER BY place, devices DESC",
    ),
  });
  const { statement } = v;
  const [found, setFound] = useState<Answer | null>(null);
  const views = useQuery(asks("/api/sql/views"));
  if (views.error)
    return (
      <div className="p-6">
        <Problem error={views.error} />
      </div>
    );
  const run = submit(async () => {
    setFound(null);
    setFound(await ok(client.POST("/api/sql", { body: { statement } })));
  });
  return (
    <div className="mx-auto w-full max-w-[1400px] px-4 pb-10">
      <p className="dim pt-3 text-[13px]">
        <Link to="/reports" search={{}} className="link-quiet">
          {t("Reports")}
        </Link>
      </p>
      <div className="flex flex-wrap items-baseline gap-x-4 gap-y-1 pb-2">
        <h1>{t("SQL")}</h1>
        <span className="dim text-[13.5px]">
          {t("reads the views listed, ten seconds and ten thousand rows at most; noted in the audit trail")}
        </span>
      </div>
      <div className="grid items-start gap-3 lg:grid-cols-[minmax(0,1fr)_300px]">
        <div className="min-w-0">
          <form onSubmit={run}>
            <TextField label={t("Statement")} rows={6} mono {...field("statement")} />
            {rest}
            <button type="submit" className="btn btn-primary btn-sm" disabled={busy}>
              {busy ? t("Reading …") : t("Read it")}
            </button>
          </form>
          {found && (
            <Sheet
              id="answer"
              title={plural(found.rows.length, "row")}
              hint={t("in {{seconds}} s{{which}}", {
                seconds: found.seconds.toFixed(2),
                which: found.cut ? t("; there are more, which are not shown") : "",
              })}
            >
              <div className="max-h-[60vh] overflow-auto">
                <Table
                  list="statement"
                  label={t("What the statement found")}
                  rows={found.rows.map((values, place) => ({ place, values: values as Cell[] }))}
                  rowKey={(row) => row.place}
                  columns={found.columns.map((name, n) => ({
                    key: `${n}`,
                    label: name,
                    of: (row) => row.values[n],
                    cell: (row) => row.values[n] ?? <span className="faint">{t("null")}</span>,
                    num: found.rows.every((row) => row[n] === null || typeof row[n] === "number"),
                    className: "break-words",
                  }))}
                />
              </div>
            </Sheet>
          )}
        </div>
        <Sheet id="views" title={t("Views")} className="">
          <div className="px-3.5 pb-3 text-[13px]">
            {(views.data ?? []).map((v) => (
              <details key={v.name} className="py-0.5">
                <summary className="mono font-semibold">{v.name}</summary>
                <p className="dim">{v.meaning}</p>
                <p className="mono faint break-words text-[12px]">{v.columns.join(", ")}</p>
              </details>
            ))}
          </div>
        </Sheet>
      </div>
    </div>
  );
}
