import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { asks } from "../../api/asking";
import { DeviceLink } from "../../parts/DeviceLink";
import { bits, count, plural, shortDay } from "../../parts/format";
import { Empty, Unanswered } from "../../parts/Problem";
import { Sheet } from "../../parts/Sheet";
import { t } from "../../words";
import { Links } from "./Links";
import { Opens } from "./Opens";
import {
  ACROSS,
  CELL,
  cables,
  cellOf,
  type PlacedStrip,
  type Port,
  placedStrips,
  type Strip,
} from "./strips";
import { TakeOut } from "./TakeOut";

interface Props {
  filter: string;
  at: string | undefined;
}

const LEGEND: [Port["state"] | "new", string][] = [
  ["switch", t("to another switch")],
  ["one", t("one device")],
  ["several", t("several behind it")],
  ["new", t("came this week")],
  ["nothing", t("nothing heard")],
];

/** So many frames in a million lost are worth a mark. */
const LOSING = 100;

const FILL: Record<Port["state"], string> = {
  switch: "var(--color-accent)",
  one: "var(--color-primary)",
  several: "color-mix(in oklab, var(--color-primary) 55%, var(--color-base-100))",
  nothing: "var(--color-base-300)",
};

/** Every switch with its ports and who is behind them, the nearest to the way out above; and the same as a list. */
export function Ports({ filter, at }: Props) {
  const [chosen, setChosen] = useState<[number, string] | null>(null);
  const asked = useQuery({
    ...asks("/api/services/ports", { params: { query: { filter, as_of: at } } }),
    placeholderData: (before) => before,
  });
  if (asked.error || !asked.data) return <Unanswered asked={asked} what={t("Looking at the ports …")} />;
  const { switches, unplaced } = asked.data;
  if (switches.length === 0)
    return (
      <Empty title={t("No switch tells of that.")}>
        {t("Ports are read of switches by SNMP: what they have learnt, and whom they hear at the other end.")}
      </Empty>
    );
  const strip = switches.find((s) => s.asset === chosen?.[0]);
  const port = strip?.ports.find((p) => p.name === chosen?.[1]);
  return (
    <>
      <div className="hidden grid-cols-[minmax(0,1fr)] items-start gap-3 sm:grid lg:grid-cols-[minmax(0,1fr)_300px]">
        <div className="sheet overflow-x-auto p-3" id="ports-picture">
          <div className="flex flex-wrap items-center justify-between gap-2 pb-2">
            <ul className="dim flex flex-wrap gap-4 text-[12px]" aria-label={t("What the squares mean")}>
              {LEGEND.map(([state, words]) => (
                <li key={state} className="flex items-center gap-1.5">
                  <svg width="15" height="15" aria-hidden="true">
                    <Square state={state === "new" ? "one" : state} fresh={state === "new"} x={0} y={0} />
                  </svg>
                  {words}
                </li>
              ))}
              <li className="flex items-center gap-1.5">
                <svg width="22" height="15" aria-hidden="true">
                  <path d="M1 8 h20" stroke="var(--color-accent)" strokeWidth="1.6" strokeDasharray="4 4" />
                </svg>
                {t("held back by the spanning tree")}
              </li>
              <li className="flex items-center gap-1.5">
                <svg width="15" height="15" aria-hidden="true">
                  <Square state="one" fresh={false} losing x={0} y={0} />
                </svg>
                {t("loses frames")}
              </li>
            </ul>
            <TakeOut name="ports" filter={filter} at={at} picture="ports-picture" />
          </div>
          <Drawn switches={switches} chosen={chosen} choose={(s, p) => setChosen([s, p])} />
        </div>
        <div className="grid gap-3">
          {strip && port ? (
            <Chosen strip={strip} port={port} at={at} />
          ) : (
            <p className="dim px-1 text-[13px]">
              {t("Choose a port to see what is behind it, and who was there before.")}
            </p>
          )}
          {unplaced.devices > 0 && (
            <p className="dim px-1 text-[13px]">
              {t("Not placed:")}{" "}
              <Opens of={unplaced} at={at}>
                {plural(unplaced.devices, "device")}
              </Opens>{" "}
              {t("no switch has told of.")}
            </p>
          )}
        </div>
      </div>
      <div className="mt-3">
        <Links filter={filter} at={at} />
      </div>
    </>
  );
}

interface DrawnProps {
  switches: Strip[];
  chosen: [number, string] | null;
  choose: (asset: number, port: string) => void;
}

function Drawn({ switches, chosen, choose }: DrawnProps) {
  const { placed, height } = placedStrips(switches);
  return (
    <svg
      viewBox={`0 0 ${ACROSS} ${height}`}
      className="w-full min-w-[720px]"
      role="group"
      aria-label={t("Ports of {{switches}}", { switches: plural(switches.length, "switch", "switches") })}
    >
      {cables(placed).map(({ from: [x, y], to: [u, v], key, held }) => (
        <path
          key={key}
          strokeDasharray={held ? "4 4" : undefined}
          d={`M${x} ${y} C${x} ${y + (v - y) / 2} ${u} ${y + (v - y) / 2} ${u} ${v}`}
          fill="none"
          stroke="var(--color-accent)"
          strokeWidth="1.6"
          opacity="0.65"
        />
      ))}
      {placed.map((one) => (
        <g key={one.strip.asset}>
          <text x={one.x} y={one.y + 13} className="fill-base-content text-[11px] font-semibold">
            {one.strip.name}
          </text>
          <text
            x={one.x + one.strip.name.length * 6.4 + 10}
            y={one.y + 13}
            className="fill-base-content text-[10px] opacity-70"
          >
            {one.columns > 8 &&
              t("{{used}} of {{ports}}", { used: one.strip.used, ports: one.strip.ports.length })}
          </text>
          {one.strip.ports.map((port, n) => (
            <PortCell key={port.name} one={one} port={port} n={n} chosen={chosen} choose={choose} />
          ))}
        </g>
      ))}
    </svg>
  );
}

interface CellProps {
  one: PlacedStrip;
  port: Port;
  n: number;
  chosen: DrawnProps["chosen"];
  choose: DrawnProps["choose"];
}

function PortCell({ one, port, n, chosen, choose }: CellProps) {
  const [x, y] = cellOf(one, n);
  const here = chosen?.[0] === one.strip.asset && chosen[1] === port.name;
  const names = port.behind.map((b) => b.name).join(", ") || t("nothing heard");
  const pick = () => choose(one.strip.asset, port.name);
  return (
    <g
      role="button"
      tabIndex={0}
      aria-pressed={here}
      aria-label={`${one.strip.name} ${port.name}: ${names}`}
      className="cursor-pointer focus-visible:outline-2"
      onClick={pick}
      onKeyDown={(e) => (e.key === "Enter" || e.key === " ") && pick()}
    >
      <title>{`${port.name}: ${names}`}</title>
      {here && (
        <rect
          x={x - 1.5}
          y={y - 1.5}
          width={CELL + 1}
          height={CELL + 1}
          rx="4"
          fill="none"
          stroke="var(--color-base-content)"
          strokeWidth="1.5"
        />
      )}
      <Square
        state={port.state}
        fresh={port.new && port.state !== "nothing"}
        losing={(port.errors ?? 0) >= LOSING}
        x={x}
        y={y}
      />
    </g>
  );
}

interface SquareProps {
  state: Port["state"];
  fresh: boolean;
  losing?: boolean;
  x: number;
  y: number;
}

function Square({ state, fresh, losing, x, y }: SquareProps) {
  const ink = "var(--color-primary-content)";
  return (
    <>
      <rect x={x} y={y} width={CELL - 2} height={CELL - 2} rx="2.5" fill={FILL[state]} />
      {state === "switch" && (
        <path d={`M${x + 7.5} ${y + 4} l3.5 6 h-7 z`} fill="var(--color-accent-content)" />
      )}
      {state === "several" && (
        <path d={`M${x + 4} ${y + 5.5} h7 M${x + 4} ${y + 9.5} h7`} stroke={ink} strokeWidth="1.5" />
      )}
      {losing && (
        <path d={`M${x} ${y + CELL - 2} h${CELL - 2}`} stroke="var(--color-error)" strokeWidth="3.5" />
      )}
      {fresh && <circle cx={x + 7.5} cy={y + 7.5} r="2.2" fill={ink} />}
    </>
  );
}

function Chosen({ strip, port, at }: { strip: Strip; port: Port; at: string | undefined }) {
  const rows: [string, React.ReactNode][] = [
    [t("Seen by"), port.seen_by || "nobody"],
    [t("Other end"), port.to_port],
    ["VLAN", port.vlans.join(", ")],
    [t("Speed"), port.speed ? bits(port.speed) : ""],
    [t("Addresses"), port.addresses > 1 ? String(port.addresses) : ""],
    [t("Spanning tree"), [port.role, port.spanning].filter(Boolean).join(", ")],
    [t("Duplex"), port.duplex],
    [t("One of"), port.aggregate],
    [t("Power"), port.feeds === "off" ? "" : port.feeds],
    [t("Errors"), port.errors ? t("{{errors}} in a million frames", { errors: count(port.errors) }) : ""],
    [
      t("Dropped"),
      port.discards ? t("{{discards}} in a million frames", { discards: count(port.discards) }) : "",
    ],
    [t("Since"), port.since && shortDay(port.since)],
    [t("Before"), port.before.join(", ")],
  ];
  return (
    <Sheet id="port" title={`${strip.name}, ${port.name}`} className="">
      <div className="px-3.5 pb-3 text-[13px]">
        <ul className="pb-2">
          {port.behind.map((b) => (
            <li key={b.asset}>
              <DeviceLink asset={b.asset} at={at} className="link-quiet mono font-semibold">
                {b.name}
              </DeviceLink>{" "}
              <span className="dim">{b.kind}</span>
            </li>
          ))}
          {port.behind.length === 0 && <li className="dim">{t("Nothing is heard here.")}</li>}
          {port.more > 0 && <li className="dim">{t("and {{more}} more", { more: port.more })}</li>}
        </ul>
        {port.guess && <p className="tag warn mb-2 whitespace-normal">{port.guess}</p>}
        <dl className="grid grid-cols-[80px_1fr] gap-y-0.5">
          {rows
            .filter(([, value]) => value)
            .map(([label, value]) => (
              <div key={label} className="col-span-2 grid grid-cols-subgrid">
                <dt className="dim">{label}</dt>
                <dd>{value}</dd>
              </div>
            ))}
        </dl>
      </div>
    </Sheet>
  );
}
