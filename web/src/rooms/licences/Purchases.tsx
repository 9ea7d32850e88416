import { useQuery } from "@tanstack/react-query";
import { Link } from "@tanstack/react-router";
import { asks } from "../../api/asking";
import { amount, day } from "../../parts/format";
import { Empty, Unanswered } from "../../parts/Problem";
import { Table } from "../../parts/table/Table";
import { t } from "../../words";
import { boughtColumns } from "./bought";

/** Every purchase of licences, the latest first. */
export function Purchases({ at }: { at: string | undefined }) {
  const asked = useQuery(asks("/api/licences/purchases", { params: { query: { as_of: at } } }));
  if (asked.error || !asked.data) return <Unanswered asked={asked} what={t("Reading purchases …")} />;
  if (!asked.data.length)
    return (
      <Empty title={t("Nothing is bought yet.")}>{t("Purchases are entered on a licence's page.")}</Empty>
    );
  return (
    <div className="overflow-x-auto bg-base-100">
      <Table
        list="purchases"
        label={t("Purchases")}
        rows={asked.data}
        rowKey={(p) => p.id}
        rowClass={(p) => (p.counts ? undefined : "dim")}
        columns={[
          {
            key: "day",
            label: t("Day"),
            of: (p) => p.day,
            cell: (p) => (
              <>
                {day(p.day)}
                {!p.counts && <span className="tag ml-2">{t("does not count yet")}</span>}
              </>
            ),
            className: "whitespace-nowrap",
          },
          {
            key: "licence",
            label: t("Licence"),
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
            label: t("In all"),
            of: (p) => p.total,
            cell: (p) => (p.total ? amount(p.total) : t("no rate")),
            num: true,
            mono: true,
          },
          { key: "order", label: t("Order"), of: (p) => p.order, mono: true },
          { key: "supplier", label: t("Supplier"), of: (p) => p.supplier, className: "dim" },
        ]}
      />
    </div>
  );
}
