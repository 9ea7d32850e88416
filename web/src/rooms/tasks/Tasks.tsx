import { useQuery } from "@tanstack/react-query";
import { Link } from "@tanstack/react-router";
import { asks } from "../../api/asking";
import { EstateNav } from "../../parts/EstateNav";
import { iso, moment } from "../../parts/format";
import { Empty, Problem, Waiting } from "../../parts/Problem";
import { Sheet } from "../../parts/Sheet";
import { Table } from "../../parts/table/Table";
import { t, word } from "../../words";
import { Scripts } from "./Scripts";
import { STATES } from "./TaskPage";

/** What was asked of devices, and the scripts that may be. */
export function Tasks() {
  const asked = useQuery({
    ...asks("/api/tasks"),
    refetchInterval: 5000,
  });
  return (
    <div className="mx-auto w-full max-w-[1280px] px-4 pb-10">
      <EstateNav />
      <div className="flex flex-wrap items-baseline gap-x-4 gap-y-1 pb-2">
        <h1>{t("Tasks")}</h1>
        <span className="dim text-[13.5px]">
          {t("what was run on the devices themselves, and what the next reading said of it")}
        </span>
      </div>
      {asked.error ? (
        <Problem error={asked.error} />
      ) : !asked.data ? (
        <Waiting what={t("Reading the tasks …")} />
      ) : asked.data.length === 0 ? (
        <Empty title={t("Nothing was run on any device yet.")}>
          {t(
            "Narrow the estate to the devices you mean, then “Run a task”; or uninstall a product from its page.",
          )}
        </Empty>
      ) : (
        <Sheet id="tasks" title={t("The newest first")} className="">
          <Table
            list="tasks"
            label={t("The newest first")}
            rows={asked.data}
            rowKey={(task) => task.id}
            columns={[
              {
                key: "task",
                label: t("Task"),
                of: (task) => task.title,
                cell: (task) => (
                  <>
                    <Link
                      to="/tasks/$task"
                      params={{ task: String(task.id) }}
                      search={{}}
                      className="link-quiet font-semibold"
                    >
                      {task.title}
                    </Link>
                    <span className="faint block">{task.why}</span>
                  </>
                ),
              },
              {
                key: "asked",
                label: t("Asked"),
                of: (task) => iso(task.asked_at),
                cell: (task) => (
                  <>
                    {moment(iso(task.asked_at))}{" "}
                    <span className="dim">{t("by {{asked_by}}", { asked_by: task.asked_by })}</span>
                  </>
                ),
                className: "whitespace-nowrap",
              },
              {
                key: "stands",
                label: t("Stands"),
                of: (task) => STATES[task.state]?.[1] ?? task.state,
                cell: (task) => (
                  <>
                    <span className={`tag ${STATES[task.state]?.[0] ?? ""}`}>
                      {STATES[task.state]?.[1] ?? word(task.state)}
                    </span>
                    {task.may_approve && (
                      <Link
                        to="/tasks/$task"
                        params={{ task: String(task.id) }}
                        search={{}}
                        className="link-quiet ml-2 font-semibold"
                      >
                        {t("Decide")}
                      </Link>
                    )}
                  </>
                ),
              },
              { key: "worked", label: t("Worked"), of: (task) => task.counts.worked, num: true },
              { key: "failed", label: t("Failed"), of: (task) => task.counts.failed, num: true },
              { key: "borne_out", label: t("Borne out"), of: (task) => task.counts.seen, num: true },
            ]}
          />
        </Sheet>
      )}
      <Scripts />
    </div>
  );
}
