import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { asks } from "../../api/asking";
import { client, ok, type Schemas } from "../../api/client";
import { DeviceLink } from "../../parts/DeviceLink";
import { agoWords, capital, moment, plural } from "../../parts/format";
import { useMay } from "../../parts/me";
import { Empty, Unanswered } from "../../parts/Problem";
import { useDone } from "../../parts/Sheet";
import { Table } from "../../parts/table/Table";
import { t, word } from "../../words";
import { Settle } from "./Settle";
import { STATES, type State } from "./words";

type Line = Schemas["TakingLine"];
const MOST = 500;

interface Props {
  whole: Schemas["TakingWhole"];
  state: State;
  place: string | undefined;
}

/** The lines of a count in one state, with the last evidence beside, settled alone or several at once. */
export function Lines({ whole, state, place }: Props) {
  const may = useMay("decide") && whole.state !== "given up";
  const done = useDone("counts");
  const [settling, setSettling] = useState<Line[]>([]);
  const query = { state, place, limit: MOST };
  const asked = useQuery({
    ...asks("/api/counts/{number}/lines", { params: { path: { number: whole.id }, query } }),
    refetchInterval: whole.state === "open" ? 10_000 : false,
  });
  if (asked.error || !asked.data) return <Unanswered asked={asked} what={t("Reading the lines …")} />;
  const { lines, total } = asked.data;
  const tick = (line: Line) =>
    done(
      () =>
        ok(
          client.POST("/api/counts/{number}/met", {
            params: { path: { number: whole.id } },
            body: {
              met: [
                { key: crypto.randomUUID(), how: "tick", code: line.number, place: line.place, note: "" },
              ],
            },
          }),
        ),
      t("{{name}} is ticked.", { name: line.name || line.number }),
    );
  const back = (line: Line) =>
    done(
      () =>
        ok(
          client.DELETE("/api/counts/{number}/met/{met}", {
            params: { path: { number: whole.id, met: line.met ?? 0 } },
          }),
        ),
      t("Taken back."),
    );
  if (!lines.length)
    return (
      <Empty
        title={t("Nothing is {{which}} here.", { which: state === "missing" ? t("left to find") : state })}
      >
        {capital(STATES[state].what)}.
      </Empty>
    );
  return (
    <section className="sheet overflow-x-auto">
      <Table
        list={`count-${state}`}
        label={STATES[state].label}
        rows={lines}
        rowKey={(l) => `${l.expected} ${l.met}`}
        acts={
          may && state !== "found"
            ? (ticked, clear) => (
                <button
                  type="button"
                  className="btn btn-sm btn-primary"
                  onClick={() => {
                    setSettling(ticked);
                    clear();
                  }}
                >
                  {t("Settle {{lines}}", { lines: plural(ticked.length, "line") })}
                </button>
              )
            : undefined
        }
        foot={
          total > lines.length
            ? t("The first {{lines}} of {{total}}; choose a place to see others.", {
                lines: lines.length,
                total,
              })
            : undefined
        }
        columns={[
          {
            key: "name",
            label: t("Device"),
            of: (l) => l.name || l.number || l.code,
            cell: (l) => (
              <>
                {l.asset !== null ? (
                  <DeviceLink asset={l.asset} at={undefined} className="link-quiet mono font-semibold">
                    {l.name || l.number}
                  </DeviceLink>
                ) : (
                  <span className="mono font-semibold">{l.name || l.number || l.code}</span>
                )}
                <span className="dim block text-[12px]">
                  {[l.number, capital(word(l.kind)), l.model].filter(Boolean).join(" · ")}
                </span>
              </>
            ),
          },
          { key: "place", label: t("Expected at"), of: (l) => (l.expected === null ? "" : l.place) },
          {
            key: "met",
            label: t("Met"),
            spare: state === "missing",
            of: (l) => l.met_at,
            cell: (l) =>
              l.met_at && (
                <>
                  {l.met_place || t("place not said")}
                  <span className="dim block text-[12px]">
                    {moment(l.met_at)}, {l.met_by}
                  </span>
                </>
              ),
          },
          {
            key: "heard",
            label: t("Last heard"),
            of: (l) => l.heard,
            cell: (l) =>
              l.heard && (
                <>
                  {agoWords(l.heard)}
                  {l.port && (
                    <span className="dim block text-[12px]">{t("on {{port}}", { port: l.port })}</span>
                  )}
                </>
              ),
          },
          { key: "person", label: t("Holder"), of: (l) => l.person },
          { key: "serial", label: t("Serial number"), of: (l) => l.serial, mono: true, spare: true },
          {
            key: "code",
            label: t("Scanned"),
            of: (l) => l.code,
            mono: true,
            spare: state === "found" || state === "missing",
          },
          {
            key: "said",
            label: t("Said of it"),
            of: (l) => [l.settled, l.note, ...l.beside].filter(Boolean).join("; "),
            cell: (l) => (
              <>
                {l.settled && <span className="tag ok mr-1">{l.settled}</span>}
                {[l.note, ...l.beside].filter(Boolean).join("; ")}
                {l.papers > 0 && (
                  <span className="dim"> {plural(l.papers, "photo or file", "photos and files")}</span>
                )}
              </>
            ),
          },
          {
            key: "do",
            label: "",
            cell: (l) =>
              may &&
              whole.state === "open" && (
                <button
                  type="button"
                  className="link-quiet font-semibold"
                  onClick={() => void (l.met === null ? tick(l) : back(l))}
                >
                  {l.met === null ? t("It is here") : t("Take back")}
                  <span className="sr-only">: {l.name || l.number || l.code}</span>
                </button>
              ),
          },
        ]}
      />
      {settling.length > 0 && (
        <Settle count={whole.id} state={state} lines={settling} close={() => setSettling([])} />
      )}
    </section>
  );
}
