import { useQuery } from "@tanstack/react-query";
import { asks } from "../../api/asking";
import type { Schemas } from "../../api/client";
import { DeviceLink } from "../../parts/DeviceLink";
import { count } from "../../parts/format";
import { Empty, Unanswered } from "../../parts/Problem";
import { Table } from "../../parts/table/Table";
import { t } from "../../words";
import { Fill } from "./Fill";
import { Opens } from "./Opens";

interface Props {
  filter: string;
  at: string | undefined;
}

/** The networks devices are in: how full each is, who routes for it, and what is known there by hand alone. */
export function Subnets({ filter, at }: Props) {
  const asked = useQuery({
    ...asks("/api/services/subnets", { params: { query: { filter, as_of: at } } }),
    placeholderData: (before) => before,
  });
  if (asked.error || !asked.data) return <Unanswered asked={asked} what={t("Looking at the networks …")} />;
  if (asked.data.length === 0)
    return (
      <Empty title={t("No network is known.")}>
        {t("Networks follow from devices’ own addresses, and from routes.")}
      </Empty>
    );
  return (
    <div className="sheet overflow-x-auto">
      <Table
        list="subnets"
        label={t("Networks")}
        rows={asked.data}
        rowKey={(r) => r.network}
        columns={[
          {
            key: "network",
            label: t("Network"),
            of: (r) => r.network,
            cell: (r) => <b className="mono">{r.network}</b>,
          },
          {
            key: "used",
            label: t("Addresses used"),
            of: (r) => r.used,
            className: "min-w-48",
            cell: (r) => <Used row={r} />,
          },
          { key: "free", label: t("Free"), of: (r) => r.size - r.used, num: true },
          {
            key: "devices",
            label: t("Devices"),
            of: (r) => r.devices.devices,
            num: true,
            cell: (r) => <Opens of={r.devices} at={at} />,
          },
          {
            key: "by_hand",
            label: t("By hand"),
            of: (r) => r.by_hand,
            num: true,
            meaning: t("devices nothing but people and rules has told of"),
            cell: (r) => r.by_hand || "–",
          },
          { key: "places", label: t("Places"), of: (r) => r.places.join(", ") },
          {
            key: "gear",
            label: t("Attached to, and led to by"),
            of: (r) => r.gear.map((g) => g.name).join(", "),
            className: "min-w-60",
            cell: (r) => <Gear gear={r.gear} at={at} />,
          },
        ]}
      />
    </div>
  );
}

function Used({ row }: { row: Schemas["SubnetOut"] }) {
  const share = Math.min(100, Math.round((100 * row.used) / row.size));
  return (
    <span className="flex items-center gap-2">
      <Fill percent={share} grade={share >= 90 ? "bad" : ""} className="w-24 shrink-0" />
      <span className="tabular-nums">
        {t("{{used}} of {{size}}", { used: count(row.used), size: count(row.size) })}
      </span>
    </span>
  );
}

function Gear({ gear, at }: { gear: Schemas["SubnetRoute"][]; at: string | undefined }) {
  const attached = gear.filter((g) => g.next_hop === "");
  const others = gear.length - attached.length;
  return (
    <span className="whitespace-normal">
      {attached.map((g) => (
        <DeviceLink key={g.asset} asset={g.asset} at={at} className="link-quiet mono mr-2">
          {g.name}
        </DeviceLink>
      ))}
      {attached.length === 0 && <span className="dim">{t("no gateway tells of it")} </span>}
      {others > 0 && (
        <span className="dim">
          {t("{{which}} the way", { which: others === 1 ? t("1 knows") : t("{{others}} know", { others }) })}
        </span>
      )}
    </span>
  );
}
