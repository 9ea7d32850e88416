import { useQuery } from "@tanstack/react-query";
import { asks } from "../../api/asking";
import { Empty, Unanswered } from "../../parts/Problem";
import { Table } from "../../parts/table/Table";
import { t } from "../../words";
import { Opens } from "./Opens";

interface Props {
  filter: string;
  at: string | undefined;
}

/** VLANs as switches tell of them: who was met in each, over which ports it goes, and where it has another name. */
export function Vlans({ filter, at }: Props) {
  const asked = useQuery({
    ...asks("/api/services/vlans", { params: { query: { filter, as_of: at } } }),
    placeholderData: (before) => before,
  });
  if (asked.error || !asked.data) return <Unanswered asked={asked} what={t("Looking at the VLANs …")} />;
  if (asked.data.length === 0)
    return (
      <Empty title={t("No switch tells of a VLAN there.")}>
        {t(
          "VLANs are read of switches by SNMP: their names, their ports, and whom each port has learnt in which.",
        )}
      </Empty>
    );
  return (
    <div className="sheet overflow-x-auto">
      <Table
        list="vlans"
        label={t("VLANs")}
        rows={asked.data}
        rowKey={(v) => String(v.vlan)}
        columns={[
          {
            key: "vlan",
            label: "VLAN",
            of: (v) => v.vlan,
            num: true,
            cell: (v) => <b className="mono">{v.vlan}</b>,
          },
          { key: "names", label: t("Names"), of: (v) => v.names.join(", ") },
          {
            key: "devices",
            label: t("Devices met in it"),
            of: (v) => v.devices.devices,
            num: true,
            cell: (v) => <Opens of={v.devices} at={at} />,
          },
          {
            key: "switches",
            label: t("Switches"),
            of: (v) => v.switches.devices,
            num: true,
            cell: (v) => <Opens of={v.switches} at={at} />,
          },
          { key: "untagged", label: t("Ports without a tag"), of: (v) => v.untagged, num: true },
          { key: "tagged", label: t("Ports with a tag"), of: (v) => v.tagged, num: true },
          {
            key: "apart",
            label: t("By another name at"),
            of: (v) => v.apart.join(", "),
            className: "whitespace-normal",
            cell: (v) => v.apart.join(", ") || "–",
          },
        ]}
      />
    </div>
  );
}
