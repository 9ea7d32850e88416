import { useQuery } from "@tanstack/react-query";
import { Link } from "@tanstack/react-router";
import { useState } from "react";
import { client, ok, type Schemas } from "../../api/client";
import { useDraft } from "../../parts/draft";
import { TextField } from "../../parts/Form";
import { count, plural } from "../../parts/format";
import { Problem } from "../../parts/Problem";
import { Sheet } from "../../parts/Sheet";

type Answer = Schemas["StatementOut"];

/** Statements of one's own over documented views: read only, ten seconds, ten thousand rows. */
export function Statements() {
  const { v, field, submit, rest, busy } = useDraft({
    statement:
      "SELECT place, kind, count(*) AS devices FROM assets\nWHERE standing = 'register' GROUP BY place, kind ORDER BY place, devices DESC",
  });
  const { statement } = v;
  const [found, setFound] = useState<Answer | null>(null);
  const views = useQuery({ queryKey: ["sql-views"], queryFn: () => ok(client.GET("/api/sql/views")) });
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
          Reports
        </Link>
      </p>
      <div className="flex flex-wrap items-baseline gap-x-4 gap-y-1 pb-2">
        <h1>SQL</h1>
        <span className="dim text-[13.5px]">
          reads the views listed, ten seconds and ten thousand rows at most; noted in the audit trail
        </span>
      </div>
      <div className="grid items-start gap-3 lg:grid-cols-[minmax(0,1fr)_300px]">
        <div className="min-w-0">
          <form onSubmit={run}>
            <TextField label="Statement" rows={6} mono {...field("statement")} />
            {rest}
            <button type="submit" className="btn btn-primary btn-sm" disabled={busy}>
              {busy ? "Reading …" : "Read"}
            </button>
          </form>
          {found && (
            <Sheet
              id="answer"
              title={plural(found.rows.length, "row")}
              hint={`in ${found.seconds.toFixed(2)} s${found.cut ? "; there are more, which are not shown" : ""}`}
            >
              <div className="max-h-[60vh] overflow-auto">
                <table className="grid-table">
                  <thead>
                    <tr>
                      {found.columns.map((c) => (
                        <th key={c}>{c}</th>
                      ))}
                    </tr>
                  </thead>
                  <tbody>
                    {found.rows.slice(0, 1000).map((row, at) => (
                      <tr key={at}>
                        {row.map((value, n) => (
                          <td
                            key={found.columns[n]}
                            className={typeof value === "number" ? "num" : "break-words"}
                          >
                            {value === null ? <span className="faint">null</span> : String(value)}
                          </td>
                        ))}
                      </tr>
                    ))}
                  </tbody>
                </table>
              </div>
              {found.rows.length > 1000 && (
                <p className="dim px-3.5 py-2 text-[13px]">
                  The first 1,000 of {count(found.rows.length)} are shown; the API gives them all.
                </p>
              )}
            </Sheet>
          )}
        </div>
        <Sheet id="views" title="Views" className="">
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
