import { useQuery } from "@tanstack/react-query";
import { Link } from "@tanstack/react-router";
import { asks } from "../../api/asking";
import type { Schemas } from "../../api/client";
import { quoted } from "../../parts/ask/written";
import { count } from "../../parts/format";
import { Empty, Unanswered } from "../../parts/Problem";
import { Table } from "../../parts/table/Table";
import { t } from "../../words";
import { deviceColumns } from "./columns";

interface Props {
  filter: string;
  at: string | undefined;
}

/** The devices that nothing stands in for, by how much stops with each. */
export function SinglePoints({ filter, at }: Props) {
  const asked = useQuery({
    ...asks("/api/services/singles", { params: { query: { filter, as_of: at } } }),
    placeholderData: (before) => before,
  });
  if (asked.error || !asked.data) return <Unanswered asked={asked} what={t("Looking for single points …")} />;
  if (asked.data.length === 0)
    return (
      <Empty title={t("None of these is a single point of failure.")}>
        {t("Nothing is known to stop with any of them.")}
      </Empty>
    );
  const falls = (r: Schemas["SingleOut"], number: number) => (
    <Link
      to="/services"
      search={{ at, tab: "stops", q: `number = ${quoted(r.number)} and standing != none` }}
      className="link-quiet"
    >
      {count(number)}
    </Link>
  );
  return (
    <div className="sheet overflow-x-auto">
      <Table
        list="single-points"
        label={t("Single points of failure")}
        rows={asked.data}
        rowKey={(r) => r.asset}
        columns={[
          ...deviceColumns(at),
          {
            key: "services",
            label: t("Services that stop"),
            of: (r) => r.services,
            cell: (r) => (r.services ? falls(r, r.services) : "–"),
            num: true,
          },
          {
            key: "stops",
            label: t("Stop with it"),
            of: (r) => r.stops,
            cell: (r) => falls(r, r.stops),
            num: true,
          },
          {
            key: "weakened",
            label: t("Weakened"),
            of: (r) => r.weakened,
            cell: (r) => falls(r, r.weakened),
            num: true,
          },
          {
            key: "mends",
            label: t("What one more would mend"),
            of: (r) => r.mends.join("; "),
            className: "min-w-72 whitespace-normal",
            cell: (r) => r.mends[0] ?? "–",
          },
        ]}
      />
    </div>
  );
}
