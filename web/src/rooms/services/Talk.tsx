import { useQuery } from "@tanstack/react-query";
import { Link } from "@tanstack/react-router";
import { useState } from "react";
import { asks } from "../../api/asking";
import type { Schemas } from "../../api/client";
import { count } from "../../parts/format";
import { Empty, Unanswered } from "../../parts/Problem";
import { Table } from "../../parts/table/Table";
import { t } from "../../words";
import { Opens } from "./Opens";

const BY = [
  ["kind", t("Kind")],
  ["place", t("Place")],
  ["name", t("Device")],
] as const;
const MOST = 24;

interface Props {
  filter: string;
  at: string | undefined;
}

/** Who speaks with whom: a matrix of groups, who calls down the side and who is called across; and the same as a list. */
export function Talk({ filter, at }: Props) {
  const [by, setBy] = useState<(typeof BY)[number][0]>("place");
  const asked = useQuery({
    ...asks("/api/services/talk", { params: { query: { filter, by, as_of: at } } }),
    placeholderData: (before) => before,
  });
  if (asked.error || !asked.data)
    return <Unanswered asked={asked} what={t("Listening who speaks with whom …")} />;
  const told = asked.data;
  return (
    <>
      <fieldset className="flex flex-wrap items-center gap-2 pb-2.5" aria-label={t("Told by")}>
        {BY.map(([key, label]) => (
          <button
            key={key}
            type="button"
            aria-pressed={by === key}
            className={`btn btn-sm ${by === key ? "btn-primary" : ""}`}
            onClick={() => setBy(key)}
          >
            {label}
          </button>
        ))}
        <span className="dim text-[13px]">
          {t("who calls stands at the side, who is called at the top; in a square how many call")}
        </span>
      </fieldset>
      {told.cells.length === 0 ? (
        <Empty title={t("Nobody was heard talking.")}>
          {t("Connections are read of Linux and Windows; what is noise is left out.")}
        </Empty>
      ) : (
        <>
          <Matrix told={told} at={at} />
          <div className="sheet mt-3 overflow-x-auto">
            <List cells={told.cells} at={at} />
          </div>
        </>
      )}
    </>
  );
}

function Matrix({ told, at }: { told: Schemas["TalkOut"]; at: string | undefined }) {
  const [callers, called] = [told.callers.slice(0, MOST), told.called.slice(0, MOST)];
  const cells = new Map(told.cells.map((c) => [`${c.caller}\n${c.called}`, c]));
  const most = Math.max(...told.cells.map((c) => c.devices));
  return (
    <div className="sheet hidden overflow-x-auto p-3 sm:block">
      <table className="text-[12.5px]" aria-label={t("Matrix of who speaks with whom")}>
        <thead>
          <tr>
            <td />
            {called.map((name) => (
              <th key={name} scope="col" className="h-28 w-9 align-bottom font-normal">
                <span className="inline-block max-h-28 -rotate-180 truncate [writing-mode:vertical-rl]">
                  {name}
                </span>
              </th>
            ))}
          </tr>
        </thead>
        <tbody>
          {callers.map((caller) => (
            <tr key={caller}>
              <th scope="row" className="max-w-44 truncate pr-2 text-right font-normal">
                {caller}
              </th>
              {called.map((name) => (
                <td key={name} className="h-9 w-9 border border-base-200 p-0 text-center tabular-nums">
                  <Square cell={cells.get(`${caller}\n${name}`)} most={most} at={at} />
                </td>
              ))}
            </tr>
          ))}
        </tbody>
      </table>
      {(told.callers.length > MOST || told.called.length > MOST) && (
        <p className="dim pt-2 text-[12.5px]">
          {t(
            "The {{MOST}} that speak most are drawn; the list below has all. Narrow the question to see others.",
            { MOST },
          )}
        </p>
      )}
    </div>
  );
}

interface SquareProps {
  cell: Schemas["TalkCell"] | undefined;
  most: number;
  at: string | undefined;
}

function Square({ cell, most, at }: SquareProps) {
  if (!cell) return null;
  // No darker than letters can still be read on, in both themes.
  const share = 8 + Math.round((Math.log1p(cell.devices) / Math.log1p(most)) * 27);
  const style = { background: `color-mix(in oklab, var(--color-primary) ${share}%, var(--color-base-100))` };
  const words = `${count(cell.devices)} of ${cell.caller} call ${cell.called} on ${cell.ports.join(", ")}${
    cell.quiet > 0 ? t("; {{quiet}} gone quiet", { quiet: cell.quiet }) : ""
  }`;
  const body = (
    <>
      {count(cell.devices)}
      {cell.quiet > 0 && (
        <span className="sr-only">{t(", {{quiet}} gone quiet", { quiet: cell.quiet })}</span>
      )}
    </>
  );
  return cell.filter ? (
    <Link
      to="/estate"
      search={{ at, q: cell.filter }}
      title={words}
      className="grid h-9 place-items-center"
      style={style}
    >
      {body}
    </Link>
  ) : (
    <span title={words} className="grid h-9 place-items-center" style={style}>
      {body}
    </span>
  );
}

function List({ cells, at }: { cells: Schemas["TalkCell"][]; at: string | undefined }) {
  return (
    <Table
      list="talk"
      label={t("Who speaks with whom")}
      rows={cells}
      rowKey={(r) => `${r.caller} ${r.called}`}
      columns={[
        { key: "caller", label: t("Who calls"), of: (r) => r.caller },
        { key: "called", label: t("Who is called"), of: (r) => r.called },
        {
          key: "devices",
          label: t("Callers"),
          of: (r) => r.devices,
          num: true,
          cell: (r) => <Opens of={r} at={at} />,
        },
        { key: "edges", label: t("Calls"), of: (r) => r.edges, num: true },
        { key: "quiet", label: t("Gone quiet"), of: (r) => r.quiet, num: true, cell: (r) => r.quiet || "–" },
        { key: "ports", label: t("Ports"), of: (r) => r.ports.join(", ") },
      ]}
    />
  );
}
