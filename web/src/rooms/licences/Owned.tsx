import { useQuery } from "@tanstack/react-query";
import { Link } from "@tanstack/react-router";
import { asks } from "../../api/asking";
import type { Schemas } from "../../api/client";
import { amount, count, day, plural } from "../../parts/format";
import { Empty, Unanswered } from "../../parts/Problem";
import { Table } from "../../parts/table/Table";
import { t, word } from "../../words";

/** When a licence's term is over, in words. */
export function Term({ l }: { l: Schemas["LicenceRow"] }) {
  if (!l.ends)
    return (
      <>
        {t("perpetual{{which}}", {
          which: l.starts ? t(", since {{starts}}", { starts: day(l.starts) }) : "",
        })}
      </>
    );
  return (
    <>
      {l.in_force ? t("until ") : t("over since ")}
      {day(l.ends)}
      {!l.in_force && <span className="tag bad ml-2">{t("over")}</span>}
    </>
  );
}

/** Every licence, with how much of it is owned and drawn on. */
export function Owned({ at }: { at: string | undefined }) {
  const asked = useQuery(asks("/api/licences", { params: { query: { as_of: at } } }));
  if (asked.error || !asked.data) return <Unanswered asked={asked} what={t("Reading licences …")} />;
  if (!asked.data.length)
    return (
      <Empty title={t("No licence is entered yet.")}>
        {t("Enter one with “Enter a licence”, then add what was bought of it.")}
      </Empty>
    );
  return (
    <div className="overflow-x-auto bg-base-100">
      <Table
        list="owned"
        label={t("Licences")}
        rows={asked.data}
        rowKey={(l) => l.id}
        columns={[
          {
            key: "licence",
            label: t("Licence"),
            of: (l) => l.name,
            cell: (l) => (
              <>
                <Link
                  to="/licences/$licence"
                  params={{ licence: String(l.id) }}
                  search={{ at }}
                  className="link-quiet font-semibold"
                >
                  {l.name}
                </Link>
                {l.publisher && <span className="faint block text-[12px]">{l.publisher}</span>}
              </>
            ),
          },
          {
            key: "covers",
            label: t("Covers"),
            of: (l) => l.products.join(", "),
            cell: (l) => (
              <>
                {l.products.length < 4 ? l.products.join(", ") : plural(l.products.length, "product")}
                {l.unknown.length > 0 && (
                  <span className="tag warn ml-2">{plural(l.unknown.length, "unknown product")}</span>
                )}
              </>
            ),
            className: "dim",
          },
          {
            key: "counted_by",
            label: t("Counted by"),
            of: (l) => word(l.metric),
            className: "dim whitespace-nowrap",
          },
          {
            key: "owned",
            label: t("Owned"),
            of: (l) => l.quantity,
            cell: (l) => (l.quantity === null || l.quantity === undefined ? "∞" : count(l.quantity)),
            num: true,
            mono: true,
          },
          {
            key: "drawn_on",
            label: t("Drawn on"),
            of: (l) => l.used,
            cell: (l) => count(l.used),
            num: true,
            mono: true,
          },
          {
            key: "a_unit",
            label: t("A unit"),
            of: (l) => l.price,
            cell: (l) => (l.price ? amount(l.price) : ""),
            num: true,
            mono: true,
          },
          {
            key: "term",
            label: t("Term"),
            of: (l) => l.ends,
            cell: (l) => <Term l={l} />,
            className: "whitespace-nowrap",
          },
          {
            key: "maintenance",
            label: t("Maintenance"),
            of: (l) => l.maintained_until,
            cell: (l) =>
              l.maintained_until
                ? t("until {{maintained_until}}", { maintained_until: day(l.maintained_until) })
                : "",
            className: "dim whitespace-nowrap",
          },
        ]}
      />
    </div>
  );
}
