import { useQuery } from "@tanstack/react-query";
import { asks } from "../../api/asking";
import { DeviceLink } from "../../parts/DeviceLink";
import { shortDay } from "../../parts/format";
import { Empty, Unanswered } from "../../parts/Problem";
import { Table } from "../../parts/table/Table";
import { t, word } from "../../words";

interface Props {
  filter: string;
  at: string | undefined;
}

/** Which port of which switch leads where, who says so, and how it is known. */
export function Links({ filter, at }: Props) {
  const asked = useQuery({
    ...asks("/api/services/links", { params: { query: { filter, as_of: at } } }),
    placeholderData: (before) => before,
  });
  if (asked.error || !asked.data) return <Unanswered asked={asked} what={t("Following the links …")} />;
  if (asked.data.length === 0)
    return (
      <Empty title={t("No links are known of these.")}>
        {t("Switches and routers tell of their links where they are read over SNMP.")}
      </Empty>
    );
  return (
    <div className="sheet overflow-x-auto">
      <Table
        list="links"
        label={t("Links")}
        rows={asked.data}
        rowKey={(r) => `${r.switch.asset} ${r.port} ${r.device.asset}`}
        columns={[
          {
            key: "switch",
            label: t("Switch"),
            of: (r) => r.switch.name,
            cell: (r) => (
              <DeviceLink asset={r.switch.asset} at={at} className="link-quiet font-semibold">
                {r.switch.name}
              </DeviceLink>
            ),
          },
          {
            key: "port",
            label: t("Port"),
            of: (r) => r.port,
            cell: (r) => <span className="mono">{r.port}</span>,
          },
          {
            key: "device",
            label: t("Leads to"),
            of: (r) => r.device.name,
            cell: (r) => (
              <DeviceLink asset={r.device.asset} at={at}>
                {r.device.name}
              </DeviceLink>
            ),
          },
          {
            key: "device_port",
            label: t("Its port"),
            of: (r) => r.device_port,
            cell: (r) => <span className="mono">{r.device_port || "–"}</span>,
          },
          {
            key: "kind",
            label: t("Kind"),
            of: (r) => r.device.kind ?? "",
            cell: (r) => r.device.kind ?? "–",
          },
          { key: "since", label: t("Since"), of: (r) => r.since, cell: (r) => shortDay(r.since) },
          { key: "how", label: t("How it is known"), of: (r) => word(r.how) },
          { key: "seen_by", label: t("Seen by"), of: (r) => r.seen_by.join(", ") },
        ]}
      />
    </div>
  );
}
