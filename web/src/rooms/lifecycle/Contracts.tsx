import { useQuery } from "@tanstack/react-query";
import { Link } from "@tanstack/react-router";
import { asks } from "../../api/asking";
import type { Schemas } from "../../api/client";
import { amount, day, plural } from "../../parts/format";
import { Empty, Unanswered } from "../../parts/Problem";
import { Table } from "../../parts/table/Table";
import { t, word } from "../../words";

type Row = Schemas["ContractRow"];

/** Until when a contract runs and what happens then. */
export function Until({ c }: { c: Row }) {
  if (!c.ends) return <span className="dim">{t("no end agreed")}</span>;
  return (
    <>
      {c.state === "over" ? t("over since ") : ""}
      {day(c.ends)}
      {c.state === "to come" && <span className="tag ml-2">{t("to come")}</span>}
      {c.state === "over" && <span className="tag ml-2">{t("over")}</span>}
    </>
  );
}

/** What is to be done about the end of a contract. */
export function Then({ c }: { c: Row }) {
  if (c.state === "over" || !c.ends) return null;
  if (c.decided) return <span className="tag ok">{c.decided}</span>;
  if (!c.renews) return <span className="dim">{t("is over then")}</span>;
  if (c.notice_days === null || c.notice_days === undefined) return null;
  if (c.notice_days < 0) return <span className="tag warn">{t("goes on: notice is past")}</span>;
  return (
    <span className={c.notice_days <= 45 ? "tag bad" : "dim"}>
      {t("notice by")} {c.notice_by && day(c.notice_by)}
      {c.notice_days <= 45 && `, ${plural(c.notice_days, "day")}`}
    </span>
  );
}

/** Every contract, those that end first before the others. */
export function Contracts({ at }: { at: string | undefined }) {
  const asked = useQuery(asks("/api/lifecycle/contracts", { params: { query: { as_of: at } } }));
  if (asked.error || !asked.data) return <Unanswered asked={asked} what={t("Reading contracts …")} />;
  if (!asked.data.length)
    return (
      <Empty title={t("No contract is entered yet.")}>
        {t(
          "Enter support, maintenance, leases, subscriptions and services; Tarn tells when notice must go out.",
        )}
      </Empty>
    );
  return (
    <div className="sheet overflow-x-auto">
      <Table
        list="contracts"
        label={t("Contracts")}
        rows={asked.data}
        rowKey={(c) => c.id}
        rowClass={(c) => (c.state === "over" ? "opacity-70" : "")}
        columns={[
          {
            key: "contract",
            label: t("Contract"),
            of: (c) => c.name,
            cell: (c) => (
              <>
                <Link
                  to="/lifecycle/contracts/$contract"
                  params={{ contract: String(c.id) }}
                  search={{ at }}
                  className="link-quiet font-semibold"
                >
                  {c.name}
                </Link>
                <span className="faint block text-[12px]">
                  {c.provider} <span className="mono">{c.number}</span>
                </span>
              </>
            ),
          },
          { key: "kind", label: t("Kind"), of: (c) => word(c.kind), className: "dim" },
          {
            key: "ends",
            label: t("Ends"),
            of: (c) => c.ends,
            cell: (c) => <Until c={c} />,
            className: "whitespace-nowrap",
          },
          { key: "then", label: t("Then"), of: (c) => c.decided || c.notice_by, cell: (c) => <Then c={c} /> },
          {
            key: "covers",
            label: t("Covers"),
            of: (c) => (c.covers ? c.devices : null),
            cell: (c) =>
              c.covers ? (
                <Link to="/estate" search={{ at, q: c.covers }} className="link-quiet">
                  {plural(c.devices, "device")}
                </Link>
              ) : (
                <span className="faint">–</span>
              ),
          },
          {
            key: "cost",
            label: t("Cost"),
            of: (c) => c.cost,
            cell: (c) => (
              <>
                {c.cost && `${amount(c.cost)} ${c.currency}`}
                {c.cost && (
                  <span className="faint block text-[12px]">
                    {c.every === "once" ? t("once") : t("each {{every}}", { every: word(c.every) })}
                  </span>
                )}
              </>
            ),
            num: true,
            mono: true,
            className: "whitespace-nowrap",
          },
        ]}
      />
    </div>
  );
}
