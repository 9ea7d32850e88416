import { useQuery } from "@tanstack/react-query";
import { Link, useParams } from "@tanstack/react-router";
import { useCallback, useState } from "react";
import { asks } from "../../api/asking";
import type { Schemas } from "../../api/client";
import { KINDS, SetForm } from "../../parts/acts/SetForm";
import { inSet } from "../../parts/ask/written";
import { axes, Chart, type Inks } from "../../parts/chart/Chart";
import { DeviceLink } from "../../parts/DeviceLink";
import { useDial } from "../../parts/dial";
import { plural, shortDay, today } from "../../parts/format";
import { useMay } from "../../parts/me";
import { Unanswered } from "../../parts/Problem";
import { Sheet } from "../../parts/Sheet";
import { Table } from "../../parts/table/Table";
import { t } from "../../words";

const SPANS: [number, string][] = [
  [7, "a week"],
  [30, "a month"],
  [90, t("three months")],
  [365, "a year"],
];

/** One set: how its number moved over a year, who came and went, what uses it. */
export function SetPage() {
  const { set } = useParams({ strict: false }) as { set: string };
  const { at } = useDial();
  const [days, setDays] = useState(30);
  const [since, setSince] = useState("");
  const [changing, setChanging] = useState(false);
  const may = useMay("keep") && !at;
  const asked = useQuery({
    ...asks("/api/sets/{number}", {
      params: { path: { number: Number(set) }, query: { as_of: at, days, since: since || undefined } },
    }),
    placeholderData: (before) => before,
  });
  const year = asked.data?.year;
  const drawYear = useCallback((ink: Inks) => asYear(year ?? [], ink), [year]);
  if (asked.error || !asked.data) return <Unanswered asked={asked} what={t("Reading the set …")} />;
  const s = asked.data;
  return (
    <div className="mx-auto w-full max-w-[1280px] px-4 pb-10">
      <p className="dim pt-3 text-[13px]">
        <Link to="/sets" search={{ at }} className="link-quiet">
          {t("Sets")}
        </Link>
        {s.folder && ` · ${s.folder}`}
      </p>
      <div className="flex flex-wrap items-center gap-x-4 gap-y-2">
        <h1>{s.name}</h1>
        <span className="tag">{KINDS[s.kind]}</span>
        <span className="flex-1" />
        <Link to="/estate" search={{ at, q: inSet(s.name) }} className="btn btn-primary btn-sm">
          {plural(s.count, "device")}
        </Link>
        {may && (
          <button type="button" className="btn btn-sm" onClick={() => setChanging(true)}>
            {t("Change")}
          </button>
        )}
      </div>
      <p className="dim pt-1 pb-3 text-[13.5px]">
        {s.note && <span className="mr-2 text-base-content">{s.note}</span>}
        {t("It holds {{sentence}}.", { sentence: s.sentence })}{" "}
        <span className="mono faint break-all">{s.filter.slice(0, 300)}</span>
      </p>
      <div className="grid items-start gap-3 lg:grid-cols-2">
        <Sheet id="year" className="" title={t("Its year")} hint={t("devices, fortnight by fortnight")}>
          <div className="px-3.5 pb-3">
            <Chart
              label={t("{{devices}} a year ago, {{number}} now", {
                devices: s.year[0]?.devices,
                number: s.count,
              })}
              draw={drawYear}
              height={150}
            />
            <details className="pt-1 text-[12.5px]">
              <summary className="link-quiet font-semibold">{t("As a list")}</summary>
              <Table
                list="set-year"
                label={t("The year of {{name}}", { name: s.name })}
                rows={s.year}
                rowKey={(p) => p.at}
                columns={[
                  { key: "day", label: t("Day"), of: (p) => p.at, cell: (p) => shortDay(p.at) },
                  { key: "devices", label: t("Devices"), of: (p) => p.devices, num: true },
                ]}
              />
            </details>
          </div>
        </Sheet>
        <Sheet id="uses" className="" title={t("What uses it")} hint={s.uses.length ? "" : t("nothing yet")}>
          <ul className="px-3.5 pb-3 text-[13px]">
            {s.uses.map((u) => (
              <li key={u.what + u.name + u.where} className="py-0.5">
                <span className="dim">{u.what}</span>{" "}
                <a className="link-quiet font-semibold" href={u.where}>
                  {u.name}
                </a>
              </li>
            ))}
            {s.uses.length === 0 && (
              <li className="dim">
                {t("Reports, baselines, rules and other sets may speak of it as in set “{{name}}”.", {
                  name: s.name,
                })}
              </li>
            )}
          </ul>
        </Sheet>
      </div>
      <div className="flex flex-wrap items-center gap-2 pt-4 pb-2">
        <h2 className="text-[15px] font-semibold">{t("Who came and went")}</h2>
        <span className="dim text-[13px]">{t("within")}</span>
        {SPANS.map(([n, label]) => (
          <button
            key={n}
            type="button"
            aria-pressed={!since && days === n}
            className={`btn btn-sm ${!since && days === n ? "btn-primary" : ""}`}
            onClick={() => {
              setDays(n);
              setSince("");
            }}
          >
            {label}
          </button>
        ))}
        <label className="ml-2 flex items-center gap-2 text-[13px]">
          {t("or since")}
          <input
            type="date"
            className="input input-sm w-36"
            value={since}
            max={(at ?? today()).slice(0, 10)}
            onChange={(e) => setSince(e.target.value)}
          />
        </label>
        <span className="dim text-[13px]">
          {t("{{devices}} in it on {{since}} and {{which}}", {
            devices: plural(s.moved.stayed, "device"),
            since: shortDay(s.moved.since),
            which: at ? shortDay(at) : t("now"),
          })}
        </span>
      </div>
      <div className="grid items-start gap-3 lg:grid-cols-2">
        <Members title={t("Came")} total={s.moved.came} rows={s.moved.came_rows} at={at} />
        <Members title={t("Left")} total={s.moved.left} rows={s.moved.left_rows} at={at} />
      </div>
      {changing && <SetForm held={s} close={() => setChanging(false)} />}
    </div>
  );
}

function Members(props: {
  title: string;
  total: number;
  rows: Schemas["NamedDevice"][];
  at: string | undefined;
}) {
  return (
    <Sheet id={props.title} className="" title={props.title} hint={plural(props.total, "device")}>
      {props.total === 0 ? (
        <p className="dim px-3.5 pb-3 text-[13px]">{t("None.")}</p>
      ) : (
        <Table
          list="set-moved"
          label={props.title}
          rows={props.rows}
          rowKey={(m) => m.id}
          columns={[
            {
              key: "device",
              label: t("Device"),
              of: (m) => m.name ?? m.number,
              cell: (m) => (
                <DeviceLink asset={m.id} at={props.at} className="link-quiet">
                  {m.name ?? m.number}
                </DeviceLink>
              ),
              mono: true,
            },
            { key: "kind", label: t("Kind"), of: (m) => m.kind, className: "dim" },
            { key: "place", label: t("Place"), of: (m) => m.place, className: "dim" },
            { key: "department", label: t("Department"), of: (m) => m.department, className: "dim" },
          ]}
        />
      )}
    </Sheet>
  );
}

/** How many devices a set held, as a curve of steps. */
function asYear(year: Schemas["SetPageOut"]["year"], ink: Inks) {
  const { grid, names, numbers, tooltip } = axes(ink);
  return {
    grid,
    tooltip: { ...tooltip, axisPointer: { type: "line" } },
    xAxis: { type: "category", data: year.map((p) => shortDay(p.at)), boundaryGap: false, ...names },
    yAxis: { type: "value", ...numbers },
    series: [
      {
        name: "Devices",
        type: "line",
        step: "end",
        symbol: "none",
        data: year.map((p) => p.devices),
        lineStyle: { color: ink.first, width: 2 },
        areaStyle: { color: ink.second, opacity: 0.35 },
      },
    ],
  };
}
