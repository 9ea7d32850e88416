import { useQueryClient } from "@tanstack/react-query";
import { Link, useNavigate, useParams } from "@tanstack/react-router";
import { useMemo, useState } from "react";
import { under } from "../../api/asking";
import { client, ok, type Schemas } from "../../api/client";
import { DeviceLink } from "../../parts/DeviceLink";
import { useDial } from "../../parts/dial";
import { capital, count, duration, iso, moment, plural } from "../../parts/format";
import { useMay } from "../../parts/me";
import { Unanswered } from "../../parts/Problem";
import { sayRefused } from "../../parts/refusal";
import { Table } from "../../parts/table/Table";
import { LOCALE, t, word } from "../../words";
import { Compared, Reasons } from "./Reasons";
import { Glyph, TideGrid, TideLegend } from "./TideGrid";
import { useRun } from "./useRun";

type Address = Schemas["AddressOut"];
type Run = Schemas["RunOut"];
type Network = Schemas["NetworkOut"];

const STATE_TONES: Record<string, string> = {
  running: "note",
  done: "ok",
  failed: "bad",
  paused: "warn",
  waiting: "note",
};
const TONES: Record<string, string> = {
  "part read": "warn",
  "fully read": "ok",
  recognised: "",
  answered: "",
};

export function RunPage() {
  const { run: text } = useParams({ strict: false }) as { run: string };
  const id = Number(text);
  const { page, broken } = useRun(id);
  const [outcome, setOutcome] = useState<string | null>(null);
  const grids = useMemo(() => byNetwork(page.data?.addresses ?? [], page.data?.networks ?? []), [page.data]);
  if (page.error || !page.data) return <Unanswered asked={page} what={t("Opening the run …")} />;
  const { run, addresses, reasons, compared } = page.data;
  const notFull = addresses.filter(
    (a) => !["waiting", "fully read", "no answer", "left out"].includes(a.outcome),
  );
  const listed = outcome ? addresses.filter((a) => a.outcome === outcome) : notFull;
  return (
    <div className="mx-auto w-full max-w-[1440px] px-4 pb-10">
      <RunHead run={run} broken={broken} />
      <ol className="flex flex-wrap gap-x-2.5 gap-y-3 py-3 text-[13px]">
        {run.stages.map((s, i) => (
          <li key={s.name} className="min-w-[150px] flex-1">
            <div
              className="h-2 overflow-hidden rounded bg-base-300"
              role="progressbar"
              aria-label={s.name}
              aria-valuenow={s.past}
              aria-valuemax={s.total}
            >
              <div
                className="h-full rounded bg-info transition-[width] duration-300"
                style={{ width: `${s.total ? (100 * s.past) / s.total : 0}%` }}
              />
            </div>
            <p className="mt-1">
              <b>
                {i + 1} {capital(s.name)}
              </b>{" "}
              <span className="dim tabular-nums">
                {s.past === s.total
                  ? t("done")
                  : t("{{past}} of {{total}}", { past: count(s.past), total: count(s.total) })}
                {s.inside > 0 ? t(", {{inside}} being looked at", { inside: s.inside }) : ""}
              </span>
            </p>
          </li>
        ))}
      </ol>
      <div className="grid gap-3 lg:grid-cols-2">
        {grids.map((g) => (
          <TideGrid key={g.range} range={g.range} name={g.name} addresses={g.addresses} />
        ))}
      </div>
      <div className="flex flex-wrap items-center gap-x-4 gap-y-1 py-2.5">
        <TideLegend />
      </div>
      <div className="flex flex-wrap gap-1.5 pb-2" role="group" aria-label={t("Outcomes")}>
        <OutcomeChip
          label={t("needs a look")}
          n={notFull.length}
          on={outcome === null}
          pick={() => setOutcome(null)}
        />
        {Object.entries(run.outcomes).map(([name, n]) => (
          <OutcomeChip
            key={name}
            label={name}
            n={n}
            on={outcome === name}
            pick={() => setOutcome(name)}
            glyph={name}
          />
        ))}
      </div>
      {compared && <Compared compared={compared} />}
      {outcome === null && <Reasons run={run} reasons={reasons} />}
      <Outcomes rows={listed} run={run} />
    </div>
  );
}

function OutcomeChip(props: { label: string; n: number; on: boolean; pick: () => void; glyph?: string }) {
  return (
    <button
      type="button"
      aria-pressed={props.on}
      onClick={props.pick}
      className={`inline-flex items-center gap-1.5 rounded-full border px-2.5 py-0.5 text-[12.5px] ${
        props.on ? "border-primary bg-primary text-primary-content" : "border-base-300 bg-base-100"
      }`}
    >
      {props.glyph && (
        <svg viewBox="0 0 20 20" width="11" height="11" aria-hidden="true">
          <Glyph outcome={props.glyph} />
        </svg>
      )}
      {props.label} <span className="tabular-nums">{count(props.n)}</span>
    </button>
  );
}

function RunHead({ run, broken }: { run: Run; broken: boolean }) {
  const queries = useQueryClient();
  const navigate = useNavigate();
  const maySweep = useMay("sweep");
  const { past } = useDial();
  const ended = ["done", "stopped", "failed"].includes(run.state);
  const wish = async (what: "pause" | "stop" | "resume") => {
    try {
      await ok(
        client.POST("/api/runs/{number}/wish", {
          params: { path: { number: run.id } },
          body: { wish: what },
        }),
      );
      await queries.invalidateQueries(under("runs"));
    } catch (error) {
      sayRefused(error, t("It could not be asked."));
    }
  };
  const again = async () => {
    try {
      const next = await ok(
        client.POST("/api/sweeps/{number}/runs", { params: { path: { number: run.sweep } } }),
      );
      await navigate({ to: "/discovery/runs/$run", params: { run: String(next.id) }, search: {} });
    } catch (error) {
      sayRefused(error, t("It could not be started."));
    }
  };
  return (
    <div className="flex flex-wrap items-center gap-x-3.5 gap-y-2 pt-3.5">
      <h1>{run.name}</h1>
      <span className={`tag ${STATE_TONES[run.state] ?? ""}`}>
        {word(run.state)}
        {run.wish ? t(", asked to {{wish}}", { wish: run.wish }) : ""}
      </span>
      <span className="dim text-[13.5px] tabular-nums" role="status">
        {t("{{which}}{{done}} of {{addresses}}{{which2}}{{which3}}", {
          which: run.started_at
            ? t("started {{started_at}} · ", { started_at: moment(iso(run.started_at)) })
            : "",
          done: count(run.done),
          addresses: plural(run.total, "address", "addresses"),
          which2:
            run.seconds > 0
              ? t(" · {{seconds}} · {{rate}} a second", {
                  seconds: duration(run.seconds),
                  rate: run.rate.toLocaleString(LOCALE),
                })
              : "",
          which3: run.remaining_seconds
            ? t(" · about {{remaining_seconds}} left", { remaining_seconds: duration(run.remaining_seconds) })
            : "",
        })}
      </span>
      {broken && <span className="tag warn">{t("the live view is broken off; trying again")}</span>}
      <span className="flex-1" />
      {ended && (
        <Link to="/discovery/intake" search={{}} className="btn btn-primary btn-sm">
          {t("Decide at intake")}
        </Link>
      )}
      {maySweep && !past && (
        <>
          {!ended && run.state !== "paused" && (
            <button
              type="button"
              className="btn btn-sm"
              disabled={run.wish !== ""}
              onClick={() => wish("pause")}
            >
              {t("Pause")}
            </button>
          )}
          {run.state === "paused" && (
            <button type="button" className="btn btn-primary btn-sm" onClick={() => wish("resume")}>
              {t("Go on")}
            </button>
          )}
          {!ended && (
            <button
              type="button"
              className="btn btn-sm"
              disabled={run.wish === "stop"}
              onClick={() => wish("stop")}
            >
              {t("Stop")}
            </button>
          )}
          {ended && (
            <button type="button" className="btn btn-sm" onClick={again}>
              {t("Run again")}
            </button>
          )}
        </>
      )}
      {run.message && (
        <p role="alert" className="w-full text-[13px] font-semibold text-error">
          {run.message}
        </p>
      )}
    </div>
  );
}

function Outcomes({ rows, run }: { rows: Address[]; run: Run }) {
  const queries = useQueryClient();
  const maySweep = useMay("sweep");
  const ended = ["done", "stopped", "failed", "paused"].includes(run.state);
  const again = async (address: string) => {
    try {
      await ok(
        client.POST("/api/runs/{number}/again", {
          params: { path: { number: run.id } },
          body: { addresses: [address] },
        }),
      );
      await queries.invalidateQueries(under("runs"));
    } catch (error) {
      sayRefused(error, t("It could not be asked."));
    }
  };
  if (rows.length === 0) {
    return (
      <p className="sheet dim px-4 py-5 text-[13px]">
        {ended ? t("Every address that answered was fully read.") : t("Nothing needs a look yet.")}
      </p>
    );
  }
  return (
    <div className="sheet overflow-x-auto">
      <Table
        list="run-page"
        label={t("Addresses of the run")}
        rows={rows}
        rowKey={(a) => a.address}
        columns={[
          {
            key: "address",
            label: t("Address"),
            of: (a) => a.address,
            cell: (a) => (
              <>
                <span className="mono">{a.address}</span>
                {a.outpost && (
                  <span className="faint block text-[12px]">
                    {t("by {{outpost}}", { outpost: a.outpost })}
                  </span>
                )}
              </>
            ),
            className: "whitespace-nowrap",
          },
          {
            key: "taken_for",
            label: t("Taken for"),
            of: (a) => a.taken_for,
            cell: (a) =>
              a.asset_id ? (
                <DeviceLink asset={a.asset_id} className="link-quiet">
                  {a.taken_for || t("an asset")}
                </DeviceLink>
              ) : (
                a.taken_for
              ),
            mono: true,
          },
          {
            key: "got_as_far_as",
            label: t("Got as far as"),
            of: (a) => word(a.outcome),
            cell: (a) => <span className={`tag ${TONES[a.outcome] ?? ""}`}>{word(a.outcome)}</span>,
          },
          {
            key: "why_it_stopped_and_what_would_mend_it",
            label: t("Why it stopped, and what would mend it"),
            of: (a) => [a.reason, a.remedy].filter(Boolean).join(" "),
            cell: (a) => (
              <>
                {a.reason} <span className="dim">{a.remedy}</span>
              </>
            ),
          },
          {
            key: "do",
            label: "",
            cell: (a) =>
              maySweep &&
              ended &&
              a.outcome !== "left out" &&
              a.outcome !== "waiting" && (
                <button type="button" className="link-quiet font-semibold" onClick={() => again(a.address)}>
                  {t("Read again")}
                </button>
              ),
            className: "text-right whitespace-nowrap",
          },
        ]}
      />
    </div>
  );
}

interface Grid {
  range: string;
  name: string;
  addresses: Address[];
}

/** Addresses by /24, in order, with the company's name of that network where it has one. */
function byNetwork(addresses: Address[], networks: Network[]): Grid[] {
  const names = new Map(networks.map((n) => [n.range, n.name]));
  const grids = new Map<string, Address[]>();
  for (const a of addresses) {
    const key = a.address.includes(":")
      ? a.address.split(":").slice(0, 4).join(":")
      : a.address.split(".").slice(0, 3).join(".");
    const held = grids.get(key);
    if (held) held.push(a);
    else grids.set(key, [a]);
  }
  const last = (a: Address) => Number(a.address.split(".")[3] ?? 0);
  return [...grids.entries()]
    .filter(([, rows]) => rows.some((r) => r.outcome !== "left out"))
    .sort(([a], [b]) => a.localeCompare(b, undefined, { numeric: true }))
    .slice(0, 24)
    .map(([key, rows]) => {
      const range = key.includes(":") ? `${key}::/64` : `${key}.0/24`;
      return { range, name: names.get(range) ?? "", addresses: [...rows].sort((a, b) => last(a) - last(b)) };
    });
}
