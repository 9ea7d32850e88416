import { useQuery } from "@tanstack/react-query";
import { Link } from "@tanstack/react-router";
import { asks } from "../../api/asking";
import { DeviceLink } from "../../parts/DeviceLink";
import { amount, plural } from "../../parts/format";
import { Empty, Unanswered } from "../../parts/Problem";
import { Table } from "../../parts/table/Table";
import { t } from "../../words";

/** Installations that could be given up, each with what its units are worth. */
export function IdleList({ at }: { at: string | undefined }) {
  const asked = useQuery(asks("/api/licences/idle", { params: { query: { as_of: at } } }));
  if (asked.error || !asked.data)
    return <Unanswered asked={asked} what={t("Looking for what nobody uses …")} />;
  if (!asked.data.length)
    return (
      <Empty title={t("Nothing lies idle.")}>
        {t(
          "An installation does when its holder has left, or when its system says that nobody has used it for long. After how many days is set under Lifecycle, Money.",
        )}
      </Empty>
    );
  const rows = asked.data;
  const worth = rows.reduce((sum, r) => sum + Number(r.worth ?? 0), 0);
  return (
    <div className="overflow-x-auto bg-base-100">
      <p className="px-4 py-2.5 text-[13.5px]">
        {t("{{installations}} could be given up, worth", {
          installations: plural(rows.length, "installation"),
        })}{" "}
        <b className="font-semibold tabular-nums">{amount(worth.toFixed(2))}</b> {rows[0]?.currency}{" "}
        {t("in units.")}{" "}
        <Link to="/licences" search={{ at, tab: "remedy" } as never} className="link-quiet font-semibold">
          {t("What to do")}
        </Link>
      </p>
      <Table
        list="idle-list"
        label={t("What nobody uses")}
        rows={rows}
        rowKey={(r) => `${r.asset}${r.product}${r.balance}`}
        columns={[
          {
            key: "device",
            label: t("Device"),
            of: (r) => r.name,
            cell: (r) => (
              <DeviceLink asset={r.asset} at={at} className="link-quiet mono font-semibold">
                {r.name}
              </DeviceLink>
            ),
          },
          {
            key: "held_by",
            label: t("Held by"),
            of: (r) => [r.person, r.department].filter(Boolean).join(", "),
            cell: (r) => (
              <>
                {r.person} <span className="dim">{r.department}</span>
              </>
            ),
          },
          {
            key: "product",
            label: t("Product"),
            of: (r) => [r.product, r.release].filter(Boolean).join(" "),
            cell: (r) => (
              <>
                {r.product} <span className="mono dim">{r.release}</span>
              </>
            ),
          },
          { key: "why", label: t("Why"), of: (r) => r.why },
          {
            key: "licence",
            label: t("Licence"),
            of: (r) => r.licence,
            cell: (r) =>
              r.licence_id ? (
                <Link
                  to="/licences/$licence"
                  params={{ licence: String(r.licence_id) }}
                  search={{ at }}
                  className="link-quiet font-semibold"
                >
                  {r.licence}
                </Link>
              ) : (
                <span className="tag bad">{t("none")}</span>
              ),
          },
          { key: "units", label: t("Units"), of: (r) => r.units, num: true, mono: true },
          {
            key: "worth",
            label: t("Worth"),
            of: (r) => r.worth,
            cell: (r) => (r.worth ? amount(r.worth) : ""),
            num: true,
            mono: true,
          },
        ]}
      />
    </div>
  );
}
