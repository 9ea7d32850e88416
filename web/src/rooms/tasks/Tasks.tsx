import { useQuery } from "@tanstack/react-query";
import { Link } from "@tanstack/react-router";
import { client, ok } from "../../api/client";
import { EstateNav } from "../../parts/EstateNav";
import { iso, moment } from "../../parts/format";
import { Empty, Problem, Waiting } from "../../parts/Problem";
import { Heads, Sheet } from "../../parts/Sheet";
import { Scripts } from "./Scripts";
import { STATES } from "./TaskPage";

/** What was asked of devices, and the scripts that may be. */
export function Tasks() {
  const asked = useQuery({
    queryKey: ["tasks"],
    queryFn: () => ok(client.GET("/api/tasks")),
    refetchInterval: 5000,
  });
  return (
    <div className="mx-auto w-full max-w-[1280px] px-4 pb-10">
      <EstateNav />
      <div className="flex flex-wrap items-baseline gap-x-4 gap-y-1 pb-2">
        <h1>Tasks</h1>
        <span className="dim text-[13.5px]">
          what was run on the devices themselves, and what the next reading said of it
        </span>
      </div>
      {asked.error ? (
        <Problem error={asked.error} />
      ) : !asked.data ? (
        <Waiting what="Reading the tasks …" />
      ) : asked.data.length === 0 ? (
        <Empty title="Nothing was run on any device yet.">
          Narrow the estate to the devices you mean, then “Run a task”; or uninstall a product from its page.
        </Empty>
      ) : (
        <Sheet id="tasks" title="The newest first" className="">
          <table className="grid-table">
            <Heads
              names={["Task", "Asked", "Stands", "Worked", "Failed", "Borne out"]}
              numbers={["Worked", "Failed", "Borne out"]}
            />
            <tbody>
              {asked.data.map((t) => (
                <tr key={t.id}>
                  <td>
                    <Link
                      to="/tasks/$task"
                      params={{ task: String(t.id) }}
                      search={{}}
                      className="link-quiet font-semibold"
                    >
                      {t.title}
                    </Link>
                    <span className="faint block">{t.why}</span>
                  </td>
                  <td className="whitespace-nowrap">
                    {moment(iso(t.asked_at))} <span className="dim">by {t.asked_by}</span>
                  </td>
                  <td>
                    <span className={`tag ${STATES[t.state]?.[0] ?? ""}`}>
                      {STATES[t.state]?.[1] ?? t.state}
                    </span>
                    {t.may_approve && (
                      <Link
                        to="/tasks/$task"
                        params={{ task: String(t.id) }}
                        search={{}}
                        className="link-quiet ml-2 font-semibold"
                      >
                        Decide
                      </Link>
                    )}
                  </td>
                  <td className="num">{t.counts.worked}</td>
                  <td className="num">{t.counts.failed}</td>
                  <td className="num">{t.counts.seen}</td>
                </tr>
              ))}
            </tbody>
          </table>
        </Sheet>
      )}
      <Scripts />
    </div>
  );
}
