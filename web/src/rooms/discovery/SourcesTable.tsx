import { useQuery } from "@tanstack/react-query";
import { Link } from "@tanstack/react-router";
import { ApiProblem, client, ok } from "../../api/client";
import { count, moment } from "../../parts/format";
import { Problem } from "../../parts/Problem";

/** A small table of the sources, for the room's first page. */
export function SourcesTable({ mayPlan }: { mayPlan: boolean }) {
  const sources = useQuery({ queryKey: ["sources"], queryFn: () => ok(client.GET("/api/sources")) });
  const failed = sources.error instanceof ApiProblem ? sources.error : null;
  return (
    <section className="sheet mt-5 overflow-x-auto" aria-labelledby="sources-title">
      <div className="flex items-center px-3.5 py-2">
        <h2 id="sources-title" className="text-[15px] font-semibold">
          Other systems
        </h2>
        <span className="flex-1" />
        {mayPlan && (
          <span className="flex gap-2">
            <Link to="/discovery/imports" search={{}} className="btn btn-sm">
              From a file
            </Link>
            <Link
              to="/discovery/sources/$source"
              params={{ source: "new" }}
              search={{}}
              className="btn btn-sm"
            >
              New source
            </Link>
          </span>
        )}
      </div>
      {failed && <Problem error={failed} />}
      <table className="grid-table">
        <thead>
          <tr>
            <th>Name</th>
            <th>Kind</th>
            <th className="num">Devices</th>
            <th className="num">No longer there</th>
            <th>Last sync</th>
            <th>Starts</th>
          </tr>
        </thead>
        <tbody>
          {sources.data?.map((s) => (
            <tr key={s.id}>
              <td>
                <Link
                  to="/discovery/sources/$source"
                  params={{ source: String(s.id) }}
                  search={{}}
                  className="link-quiet font-semibold"
                >
                  {s.name}
                </Link>
              </td>
              <td>{s.kind}</td>
              <td className="num">{count(s.devices)}</td>
              <td className="num">{s.missing || ""}</td>
              <td>
                {s.last_sync
                  ? `${s.last_sync.state}, ${moment(new Date(s.last_sync.made_at * 1000).toISOString())}`
                  : "never"}
              </td>
              <td className="dim">{s.schedule_words || "by hand"}</td>
            </tr>
          ))}
        </tbody>
      </table>
      {sources.data?.length === 0 && (
        <p className="dim px-3.5 py-3 text-[13px]">
          None yet: a directory, device management or another inventory can say what it knows.
        </p>
      )}
    </section>
  );
}
