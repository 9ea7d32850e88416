import { useQuery } from "@tanstack/react-query";
import { asks } from "../../api/asking";
import type { Schemas } from "../../api/client";
import { DeviceLink } from "../../parts/DeviceLink";
import { plural } from "../../parts/format";
import { Empty, Unanswered } from "../../parts/Problem";
import { Sheet } from "../../parts/Sheet";
import { Table } from "../../parts/table/Table";
import { t } from "../../words";
import { Opens } from "./Opens";
import { letterOf, placedSlots, RACK, UNIT } from "./racks";
import { TakeOut } from "./TakeOut";

interface Props {
  filter: string;
  at: string | undefined;
}

type Rack = Schemas["RackOut"];
type Slot = Schemas["RackSlot"];

/** Racks with what stands in them, and by which sources each device is fed; and the same as a list. */
export function Racks({ filter, at }: Props) {
  const asked = useQuery({
    ...asks("/api/services/racks", { params: { query: { filter, as_of: at } } }),
    placeholderData: (before) => before,
  });
  if (asked.error || !asked.data) return <Unanswered asked={asked} what={t("Looking at the racks …")} />;
  if (asked.data.length === 0)
    return (
      <Empty title={t("Nothing is said to stand in a rack.")}>
        {t(
          "Say rack and height unit of a device in its dossier, or bring them in by a file with such columns. What feeds it follows from what is written on outlets, or is said there too.",
        )}
      </Empty>
    );
  const all = asked.data.flatMap((r) => r.slots.map((s) => ({ ...s, rack: r.rack })));
  return (
    <div className="grid gap-3">
      <div className="sheet overflow-x-auto p-3" id="racks-picture">
        <div className="flex flex-wrap items-center justify-between gap-2 pb-2">
          <p className="dim text-[12.5px]">
            {t(
              "The letters at the right say what feeds a device. A box with a thick edge hangs on one source alone; a dashed one was not asked for, and stands there too.",
            )}
          </p>
          <TakeOut name="racks" filter={filter} at={at} picture="racks-picture" />
        </div>
        <Drawn racks={asked.data} />
      </div>
      <div className="grid gap-3 lg:grid-cols-2">
        {asked.data.map((rack) => (
          <Sources key={`${rack.place} ${rack.rack}`} rack={rack} at={at} />
        ))}
      </div>
      <div className="sheet overflow-x-auto">
        <Table
          list="racks"
          label={t("Devices in racks")}
          rows={all}
          rowKey={(s) => String(s.asset)}
          columns={[
            { key: "rack", label: t("Rack"), of: (s) => s.rack },
            {
              key: "unit",
              label: t("Height unit"),
              of: (s) => s.unit,
              cell: (s) => unitsOf(s),
            },
            {
              key: "name",
              label: t("Device"),
              of: (s) => s.name,
              cell: (s) => (
                <DeviceLink asset={s.asset} at={at} className="link-quiet mono font-semibold">
                  {s.name}
                </DeviceLink>
              ),
            },
            { key: "kind", label: t("Kind"), of: (s) => s.kind ?? "" },
            {
              key: "feeds",
              label: t("Fed by"),
              of: (s) => s.feeds.map((f) => `${f.name} ${f.outlet}`.trim()).join(", "),
              className: "min-w-60 whitespace-normal",
            },
            {
              key: "mind",
              label: t("To mind"),
              of: (s) => minded(s).join("; "),
              className: "whitespace-normal",
              cell: (s) =>
                minded(s).map((words) => (
                  <span key={words} className="tag warn mr-1">
                    {words}
                  </span>
                )),
            },
          ]}
        />
      </div>
    </div>
  );
}

function unitsOf(slot: Slot): string {
  if (slot.unit === null) return t("not said");
  return slot.height > 1 ? `${slot.unit}–${slot.unit + slot.height - 1}` : String(slot.unit);
}

function minded(slot: Slot): string[] {
  const out: string[] = [];
  if (slot.clash) out.push(t("another is said to be here"));
  if (slot.one_feed) out.push(slot.feeds.length > 1 ? t("both plugs in one source") : t("one source alone"));
  return out;
}

function Sources({ rack, at }: { rack: Rack; at: string | undefined }) {
  const alone = rack.slots.filter((s) => s.one_feed);
  return (
    <Sheet id={`rack-${rack.rack}`} title={`${rack.rack}${rack.place ? `, ${rack.place}` : ""}`} className="">
      <div className="px-3.5 pb-3 text-[13px]">
        <p>
          {t("{{taken}} of at least {{units}} height units taken by", {
            taken: rack.taken,
            units: rack.units,
          })}{" "}
          <Opens of={rack.devices} at={at} inText>
            {plural(rack.devices.devices, "device")}
          </Opens>
          .
        </p>
        <ul className="pt-1">
          {rack.sources.map((name, n) => (
            <li key={name}>
              <b className="mono">{letterOf(n)}</b> <span className="mono">{name}</span>
            </li>
          ))}
          {rack.sources.length === 0 && <li className="dim">{t("Nobody says what feeds it.")}</li>}
        </ul>
        {alone.length > 0 && (
          <p className="pt-1">
            {t("On one source alone: {{alone}}.", { alone: alone.map((s) => s.name).join(", ") })}
          </p>
        )}
      </div>
    </Sheet>
  );
}

function Drawn({ racks }: { racks: Rack[] }) {
  const most = Math.max(...racks.map((r) => r.units));
  const height = 26 + most * UNIT + 8;
  const width = racks.length * (RACK + 40);
  return (
    <svg
      viewBox={`0 0 ${width} ${height}`}
      style={{ width: `${width}px` }}
      role="group"
      aria-label={plural(racks.length, "rack")}
    >
      {racks.map((rack, n) => (
        <Frame key={`${rack.place} ${rack.rack}`} rack={rack} x={n * (RACK + 40)} most={most} />
      ))}
    </svg>
  );
}

function Frame({ rack, x, most }: { rack: Rack; x: number; most: number }) {
  const top = 24 + (most - rack.units) * UNIT;
  return (
    <g>
      <text x={x + 24} y={top - 10} className="fill-base-content text-[12px] font-semibold">
        {rack.rack}
      </text>
      <rect
        x={x + 22}
        y={top - 2}
        width={RACK - 22}
        height={rack.units * UNIT + 4}
        fill="none"
        stroke="var(--color-base-300)"
        strokeWidth="2"
      />
      {Array.from({ length: rack.units }, (_, k) => rack.units - k)
        .filter((unit) => unit === 1 || unit % 5 === 0)
        .map((unit) => (
          <text
            key={unit}
            x={x + 17}
            y={top + (rack.units - unit) * UNIT + 11}
            textAnchor="end"
            className="fill-base-content text-[9px] opacity-70"
          >
            {unit}
          </text>
        ))}
      {placedSlots(rack, top).map(({ slot, y, height }) => (
        <g key={slot.asset}>
          <title>{`${slot.name}: ${slot.feeds.map((f) => `${f.name} ${f.outlet}`).join(", ") || t("nobody says what feeds it")}`}</title>
          <rect
            x={x + 24}
            y={y}
            width={RACK - 26}
            height={height}
            rx="2"
            fill={slot.clash ? "var(--color-warning)" : slot.mine ? "var(--color-base-200)" : "none"}
            strokeDasharray={slot.mine ? undefined : "3 3"}
            stroke="var(--color-base-content)"
            strokeWidth={slot.one_feed ? 2 : 0.6}
          />
          <text x={x + 30} y={y + height / 2 + 3.5} className="fill-base-content text-[10.5px]">
            {slot.name}
          </text>
          <text
            x={x + RACK - 8}
            y={y + height / 2 + 3.5}
            textAnchor="end"
            className="fill-base-content text-[10px] font-semibold"
          >
            {slot.feeds.map((f) => letterOf(rack.sources.indexOf(f.name))).join(" ")}
          </text>
        </g>
      ))}
    </g>
  );
}
