import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { asks } from "../../api/asking";
import type { Schemas } from "../../api/client";
import { DeviceLink } from "../../parts/DeviceLink";
import { count, plural } from "../../parts/format";
import { Empty, Unanswered } from "../../parts/Problem";
import { Table } from "../../parts/table/Table";
import { t } from "../../words";
import { MakeKnown } from "./MakeKnown";
import { Opens } from "./Opens";

interface Props {
  told: Schemas["UnknownOut"];
  at: string | undefined;
  may: boolean;
  alone: boolean;
}

/** Groups of programs that look alike; the one that is chosen shows its samples, and how to make it known. */
export function UnknownPrograms({ told, at, may, alone }: Props) {
  const [chosen, setChosen] = useState<string | null>(null);
  // What was just made known, or left, is asked for no more: it may be gone before the list is told anew.
  const [left, setLeft] = useState<string[]>([]);
  const groups = told.groups.filter((g) => !left.includes(g.key));
  const key = groups.some((g) => g.key === chosen) ? chosen : (groups[0]?.key ?? null);
  if (key === null)
    return (
      <Empty title={alone ? t("Nothing is left alone.") : t("Every program is known.")}>
        {alone
          ? t("What you leave alone among the unknown programs stands here.")
          : t(
              "Processes are read of Linux, Windows and macOS; what no package and no rule explains would stand here.",
            )}
      </Empty>
    );
  return (
    <div className="grid grid-cols-[minmax(0,1fr)] items-start gap-3 lg:grid-cols-[minmax(0,1fr)_330px]">
      <div className="grid grid-cols-[minmax(0,1fr)] gap-3">
        <div className="sheet overflow-x-auto">
          <Table
            list="unknown-programs"
            label={t("Unknown programs")}
            rows={groups}
            rowKey={(r) => r.key}
            rowClass={(r) => (r.key === key ? "bg-base-200" : undefined)}
            columns={[
              {
                key: "looks",
                label: t("What it looks like"),
                of: (r) => r.looks,
                className: "max-w-md",
                cell: (r) => (
                  <button
                    type="button"
                    aria-pressed={r.key === key}
                    className="link-quiet mono block text-left text-[12.5px] break-all whitespace-normal"
                    onClick={() => setChosen(r.key)}
                  >
                    {r.looks}
                  </button>
                ),
              },
              {
                key: "listens",
                label: t("Listens on"),
                of: (r) => r.listens.join(", "),
                cell: (r) =>
                  r.listens.length ? (
                    <span className="mono">{r.listens.slice(0, 4).join(", ")}</span>
                  ) : (
                    <span className="dim">{t("nothing")}</span>
                  ),
              },
              {
                key: "where",
                label: t("Where"),
                of: (r) => r.processes,
                cell: (r) => <Where group={r} at={at} />,
              },
              {
                key: "and",
                label: t("And"),
                of: (r) => and(r),
                cell: (r) => (
                  <span className="whitespace-normal">{and(r) || <span className="dim">–</span>}</span>
                ),
              },
              {
                key: "alike",
                label: t("Alike"),
                of: (r) => r.alike,
                num: true,
                meaning: t("how alike its processes are to the one in their middle"),
                cell: (r) => <span className="whitespace-nowrap">{r.alike} %</span>,
              },
            ]}
          />
        </div>
        <Chosen group={key} at={at} may={may} />
      </div>
      <Making group={key} at={at} may={may} leave={() => setLeft([...left, key])} />
    </div>
  );
}

function Where({ group, at }: { group: Schemas["ProgramGroup"]; at: string | undefined }) {
  const { devices } = group.devices;
  const words = devices === 1 ? group.first : plural(devices, "device");
  return (
    <>
      {t("{{processes}} on", { processes: count(group.processes) })}{" "}
      <Opens of={group.devices} at={at}>
        {words}
      </Opens>
    </>
  );
}

function and(group: Schemas["ProgramGroup"]): string {
  return [
    group.called_by > 0 && t("heard from {{devices}}", { devices: plural(group.called_by, "device") }),
    group.talks_to.length > 0 && t("talks to {{talks_to}}", { talks_to: group.talks_to.join(", ") }),
    group.behaves.length > 0 &&
      t("at the ports of a {{behaves}}", { behaves: group.behaves.join(", ").toLowerCase() }),
  ]
    .filter(Boolean)
    .join("; ");
}

function useGroup(group: string, at: string | undefined) {
  return useQuery(
    asks("/api/services/programs/{key}", { params: { path: { key: group }, query: { as_of: at } } }),
  );
}

interface Of {
  group: string;
  at: string | undefined;
  may: boolean;
}

function Chosen({ group, at }: Of) {
  const asked = useGroup(group, at);
  if (asked.error || !asked.data) return <Unanswered asked={asked} what={t("Looking at its samples …")} />;
  return (
    <section className="sheet overflow-x-auto" aria-label={t("Samples")}>
      <p className="dim px-3.5 pt-2 text-[13px]">{t("Samples; what differs among them is marked.")}</p>
      <Table
        list="program-samples"
        label={t("Samples")}
        rows={asked.data.samples}
        rowKey={(r) => `${r.asset} ${r.account} ${r.command.map((p) => p.text).join("")}`}
        columns={[
          {
            key: "on",
            label: t("On"),
            of: (r) => r.name,
            cell: (r) => (
              <DeviceLink asset={r.asset} at={at}>
                {r.name}
              </DeviceLink>
            ),
          },
          {
            key: "command",
            label: t("Command"),
            of: (r) => r.command.map((p) => p.text).join(""),
            className: "max-w-xl",
            cell: (r) => (
              <span className="mono text-[12.5px] break-all whitespace-normal">
                {r.command.map((piece, n) =>
                  piece.differs ? (
                    <mark
                      key={`${n} ${piece.text}`}
                      className="rounded-sm bg-warning px-0.5 text-warning-content"
                    >
                      {piece.text}
                    </mark>
                  ) : (
                    piece.text
                  ),
                )}
              </span>
            ),
          },
          { key: "account", label: t("Run by"), of: (r) => r.account },
          { key: "listens", label: t("Listens on"), of: (r) => r.listens },
        ]}
      />
    </section>
  );
}

function Making({ group, at, may, leave }: Of & { leave: () => void }) {
  const asked = useGroup(group, at);
  if (asked.error || !asked.data) return null;
  return <MakeKnown key={group} told={asked.data} may={may} leave={leave} />;
}
