import { useQuery } from "@tanstack/react-query";
import { Link } from "@tanstack/react-router";
import { asks } from "../../api/asking";
import { amount, day } from "../../parts/format";
import { Empty, Unanswered } from "../../parts/Problem";
import { Table } from "../../parts/table/Table";
import { boughtColumns } from "./bought";

/** Every purchase of licences, the latest first. */
export function Purchases({ at }: { at: string | undefined }) {
  const asked = useQuery(asks("/api/licences/purchases", { params: { query: { as_of: at } } }));
  if (asked.error || !asked.data) return <Unanswered asked={asked} what="Reading purchases …" />;
  if (!asked.data.length)
    return <Empty title="Nothing is bought yet.">Purchases are entered on a licence's page.</Empty>;
  return (
    <div className="overflow-x-auto bg-base-100">
      <Table
        list="purchases"
        label="Purchases"
        rows={asked.data}
        rowKey={(p) => p.id}
        rowClass={(p) => (p.counts ? undefined : "dim")}
        columns={[
          {
            key: "day",
            label: "Day",
            of: (p) => p.day,
            cell: (p) => (
              <>
                {day(p.day)}
                {!p.counts && <span className="tag ml-2">does not count yet</span>}
              </>
            ),
            className: "whitespace-nowrap",
          },
          {
            key: "licence",
            label: "Licence",
            of: (p) => p.name,
            cell: (p) => (
              <Link
                to="/licences/$licence"
                params={{ licence: String(p.licence) }}
                search={{ at }}
                className="link-quiet font-semibold"
              >
                {p.name}
              </Link>
            ),
          },
          ...boughtColumns(),
          {
            key: "in_all",
            label: "In all",
            of: (p) => p.total,
            cell: (p) => (p.total ? amount(p.total) : "no rate"),
            num: true,
            mono: true,
          },
          { key: "order", label: "Order", of: (p) => p.order, mono: true },
          { key: "supplier", label: "Supplier", of: (p) => p.supplier, className: "dim" },
        ]}
      />
    </div>
  );
}
