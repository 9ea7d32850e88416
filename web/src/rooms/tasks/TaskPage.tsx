import { useQuery, useQueryClient } from "@tanstack/react-query";
import { Link, useParams } from "@tanstack/react-router";
import { useState } from "react";
import { asks } from "../../api/asking";
import { client, ok, type Schemas } from "../../api/client";
import { DeviceLink } from "../../parts/DeviceLink";
import { iso, moment, plural } from "../../parts/format";
import { useMay } from "../../parts/me";
import { Problem, Unanswered } from "../../parts/Problem";
import { Sheet } from "../../parts/Sheet";
import { Table } from "../../parts/table/Table";
import { t } from "../../words";

type Task = Schemas["TaskOut"];
type Device = Task["devices"][number];

export const STATES: Record<string, [string, string]> = {
  "to approve": ["warn", t("waits for a second person")],
  waiting: ["", "about to begin"],
  running: ["note", "running"],
  proving: ["note", t("run; waiting for the next reading")],
  done: ["ok", "done"],
  refused: ["bad", "refused"],
  stopped: ["warn", "stopped"],
};
const FARED: Record<string, [string, string]> = {
  refused: ["", "not run"],
  waiting: ["", "waits"],
  running: ["note", "running"],
  worked: ["ok", "worked"],
  failed: ["bad", "failed"],
  stopped: ["warn", "not begun"],
};
const OVER = new Set(["done", "refused", "stopped"]);

/** One task: how each device fared, and what the next reading says of it. */
export function TaskPage() {
  const { task: number } = useParams({ strict: false }) as { task: string };
  const path = { number: Number(number) };
  const queries = useQueryClient();
  const may = useMay("tasks");
  const [error, setError] = useState<unknown>(null);
  const asked = useQuery({
    ...asks("/api/tasks/{number}", { params: { path } }),
    refetchInterval: (q) => (q.state.data && OVER.has(q.state.data.state) ? false : 1500),
  });
  if (asked.error || !asked.data) return <Unanswered asked={asked} what={t("Reading the task …")} />;
  const task = asked.data;
  const attempt = async (call: () => Promise<Task>) => {
    setError(null);
    try {
      queries.setQueryData(asks("/api/tasks/{number}", { params: { path } }).queryKey, await call());
    } catch (refused) {
      setError(refused);
    }
  };
  const settle = (approve: boolean) =>
    attempt(() => ok(client.POST("/api/tasks/{number}/approval", { params: { path }, body: { approve } })));
  const [tone, words] = STATES[task.state] ?? ["", task.state];
  const c = task.counts;
  return (
    <div className="mx-auto w-full max-w-[1280px] px-4 pb-10">
      <p className="dim pt-3 text-[13px]">
        <Link to="/tasks" search={{}} className="link-quiet">
          {t("Tasks")}
        </Link>
      </p>
      <div className="flex flex-wrap items-center gap-x-4 gap-y-1 pb-1">
        <h1>{task.title}</h1>
        <span className={`tag ${tone}`} role="status">
          {words}
        </span>
        <span className="flex-1" />
        {task.may_approve && (
          <>
            <button type="button" className="btn btn-sm" onClick={() => void settle(false)}>
              {t("Refuse")}
            </button>
            <button type="button" className="btn btn-primary btn-sm" onClick={() => void settle(true)}>
              {t("Approve and run")}
            </button>
          </>
        )}
        {may && ["waiting", "running", "to approve"].includes(task.state) && (
          <button
            type="button"
            className="btn btn-sm"
            onClick={() =>
              void attempt(() => ok(client.POST("/api/tasks/{number}/stop", { params: { path } })))
            }
          >
            {t("Stop")}
          </button>
        )}
      </div>
      <p className="dim pb-2.5 text-[13.5px]">
        {t("Asked by {{asked_by}}, {{asked_at}}{{decided_by}}: {{why}}.", {
          asked_by: task.asked_by,
          asked_at: moment(iso(task.asked_at)),
          decided_by: task.decided_by && t(", decided by {{decided_by}}", { decided_by: task.decided_by }),
          why: task.why,
        })}
        {task.filter && (
          <>
            {" "}
            {t("For")} <span className="mono">{task.filter}</span>.
          </>
        )}
      </p>
      {error !== null && <Problem error={error} />}
      <p className="pb-2 text-[13.5px]" role="status" aria-label={t("How it fares")}>
        {[
          c.waiting && t("{{waiting}} to come", { waiting: c.waiting }),
          c.worked && t("{{worked}} worked", { worked: c.worked }),
          c.failed && t("{{failed}} failed", { failed: c.failed }),
          c.stopped && t("{{stopped}} not begun", { stopped: c.stopped }),
          c.refused && t("{{refused}} not run", { refused: c.refused }),
          c.seen && t("{{seen}} seen by a reading since", { seen: c.seen }),
          c.unseen && t("{{unseen}} not borne out", { unseen: c.unseen }),
        ]
          .filter(Boolean)
          .join(" · ")}
      </p>
      {task.script && (
        <details className="sheet mb-3 px-3.5 py-2 text-[13px]">
          <summary className="font-semibold">{t("The script, as it was reviewed")}</summary>
          <pre className="mono pt-2 whitespace-pre-wrap">{task.script}</pre>
        </details>
      )}
      <Sheet id="devices" title={plural(task.devices.length, "device")} className="">
        <Table
          list="task-devices"
          label={t("Devices of the task")}
          rows={task.devices}
          rowKey={(d) => d.asset_id}
          columns={[
            {
              key: "device",
              label: t("Device"),
              of: (d) => d.name,
              cell: (d) => <DeviceLink asset={d.asset_id}>{d.name}</DeviceLink>,
              className: "whitespace-nowrap",
            },
            {
              key: "address",
              label: t("Address"),
              of: (d) => d.address,
              mono: true,
              className: "whitespace-nowrap",
            },
            {
              key: "run",
              label: t("What is run"),
              of: (d) => d.shown,
              mono: true,
              className: "w-[26%] break-all",
            },
            {
              key: "went",
              label: t("How it went"),
              of: (d) => [FARED[d.state]?.[1] ?? d.state, d.words].filter(Boolean).join(" "),
              cell: (d) => <Fared device={d} />,
              className: "w-[26%]",
            },
            {
              key: "proof",
              label: t("What the next reading says"),
              of: (d) => (d.proof ? `${d.proof} ${d.proof_words}` : ""),
              cell: (d) => <Proof device={d} />,
              className: "w-[20%]",
            },
          ]}
        />
      </Sheet>
    </div>
  );
}

function Fared({ device: d }: { device: Device }) {
  const [tone, words] = FARED[d.state] ?? ["", d.state];
  return (
    <>
      <span className={`tag ${tone}`}>{words}</span> <span className="dim">{d.words}</span>
      {d.credential && (
        <span className="faint block text-[12px]">
          {t("as {{credential}}", { credential: d.credential })}
        </span>
      )}
      {d.said && (
        <details className="text-[12px]">
          <summary>{t("what it printed")}</summary>
          <pre className="mono whitespace-pre-wrap">{d.said}</pre>
        </details>
      )}
    </>
  );
}

function Proof({ device: d }: { device: Device }) {
  if (!d.proof) return d.began && <span className="faint">{t("not read since")}</span>;
  return (
    <>
      <span className={`tag ${d.proof === "seen" ? "ok" : "bad"}`}>
        {d.proof === "seen" ? t("seen") : t("not borne out")}
      </span>{" "}
      <span className="dim">{d.proof_words}</span>
    </>
  );
}
