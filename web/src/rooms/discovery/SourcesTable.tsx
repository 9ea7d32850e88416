import { useQuery } from "@tanstack/react-query";
import { Link } from "@tanstack/react-router";
import { ApiProblem, client, ok } from "../../api/client";
import { count, iso, moment, plural } from "../../parts/format";
import { Problem } from "../../parts/Problem";
import { Heads, Sheet } from "../../parts/Sheet";

/** A small table of the sources, for the room's first page. */
export function SourcesTable({ mayPlan }: { mayPlan: boolean }) {
  const sources = useQuery({ queryKey: ["sources"], queryFn: () => ok(client.GET("/api/sources")) });
  const failed = sources.error instanceof ApiProblem ? sources.error : null;
  return (
    <Sheet
      id="sources"
      title="Other systems"
      className="mt-5"
      actions={
        mayPlan && (
          <>
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
          </>
        )
      }
    >
      {failed && <Problem error={failed} />}
      <table className="grid-table">
        <Heads
          names={["Name", "Kind", "Devices", "No longer there", "Last sync", "Starts"]}
          numbers={["Devices", "No longer there"]}
        />
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
              <td className="num">
                {s.kind === "people"
                  ? plural(s.last_sync?.counts.people ?? 0, "person", "people")
                  : count(s.devices)}
              </td>
              <td className="num">{s.missing || ""}</td>
              <td>{s.last_sync ? `${s.last_sync.state}, ${moment(iso(s.last_sync.made_at))}` : "never"}</td>
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
    </Sheet>
  );
}
