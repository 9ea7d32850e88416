import { useQuery } from "@tanstack/react-query";
import { Link } from "@tanstack/react-router";
import { asks } from "../../api/asking";
import { capital } from "../../parts/format";
import { Empty, Unanswered } from "../../parts/Problem";
import { Table } from "../../parts/table/Table";
import { t, word } from "../../words";

const TONES: Record<string, string> = {
  unlicensed: "bad",
  "term over": "bad",
  "over-used key": "bad",
  "no right": "bad",
  "ends soon": "warn",
  "spare soon to renew": "warn",
  "maintenance over": "warn",
};

/** What is wrong with licences and keys, or about to be, the costliest first. */
export function Warnings({ at }: { at: string | undefined }) {
  const asked = useQuery(asks("/api/licences/warnings", { params: { query: { as_of: at } } }));
  if (asked.error || !asked.data) return <Unanswered asked={asked} what={t("Looking for what is wrong …")} />;
  if (!asked.data.length) return <Empty title={t("Nothing is wrong.")} />;
  return (
    <div className="overflow-x-auto bg-base-100">
      <Table
        list="warnings"
        label={t("Warnings")}
        rows={asked.data}
        rowKey={(w) => `${w.sort}${w.balance}${w.licence}${w.text}`}
        columns={[
          {
            key: "what",
            label: t("What"),
            of: (w) => word(w.sort),
            cell: (w) => <span className={`tag ${TONES[w.sort] ?? "note"}`}>{capital(word(w.sort))}</span>,
          },
          {
            key: "of",
            label: t("Of"),
            of: (w) => w.name,
            cell: (w) =>
              w.balance ? (
                <Link
                  to="/licences"
                  search={{ at, q: w.balance } as never}
                  className="link-quiet font-semibold"
                >
                  {w.name}
                </Link>
              ) : (
                <Link
                  to="/licences"
                  search={{ at, tab: "keys" } as never}
                  className="link-quiet font-semibold"
                >
                  {w.name}
                </Link>
              ),
            className: "whitespace-nowrap",
          },
          { key: "in_words", label: t("In words"), of: (w) => w.text },
        ]}
      />
    </div>
  );
}
