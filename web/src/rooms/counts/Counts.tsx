import { useQuery } from "@tanstack/react-query";
import { Link } from "@tanstack/react-router";
import { useState } from "react";
import { asks } from "../../api/asking";
import { CountDialog } from "../../parts/acts/CountDialog";
import { count, day } from "../../parts/format";
import { useMay } from "../../parts/me";
import { Empty, Unanswered } from "../../parts/Problem";
import { Table } from "../../parts/table/Table";
import { t, word } from "../../words";
import { Progress } from "./Progress";

/** All counts: how far each has come, and what it says. */
export function Counts({ at }: { at: string | undefined }) {
  const may = useMay("decide") && !at;
  const [opening, setOpening] = useState(false);
  const asked = useQuery(asks("/api/counts"));
  if (asked.error || !asked.data) return <Unanswered asked={asked} what={t("Reading the counts …")} />;
  return (
    <>
      {may && (
        <div className="flex justify-end pb-2.5">
          <button type="button" className="btn btn-sm" onClick={() => setOpening(true)}>
            {t("Count devices")}
          </button>
        </div>
      )}
      {asked.data.length === 0 ? (
        <Empty title={t("Nothing has been counted yet.")}>
          {t(
            "A count says which of the devices that ought to be somewhere are there. It is opened here or from a selection in Estate, and counted with a phone: scan, type or tick.",
          )}
        </Empty>
      ) : (
        <div className="sheet overflow-x-auto">
          <Table
            list="counts"
            label={t("Counts")}
            rows={asked.data}
            rowKey={(c) => c.id}
            columns={[
              {
                key: "number",
                label: t("Number"),
                of: (c) => c.number,
                cell: (c) => (
                  <Link
                    to="/counts/$count"
                    params={{ count: String(c.id) }}
                    search={{}}
                    className="link-quiet mono font-semibold"
                  >
                    {c.number}
                  </Link>
                ),
              },
              { key: "name", label: t("Name"), of: (c) => c.name },
              {
                key: "state",
                label: t("State"),
                of: (c) => word(c.state),
                cell: (c) => (
                  <span className={`tag ${c.state === "open" ? "note" : ""}`}>{word(c.state)}</span>
                ),
              },
              {
                key: "progress",
                label: t("Met"),
                of: (c) => c.figures.found + c.figures.elsewhere,
                cell: (c) => (
                  <div className="w-40">
                    <Progress figures={c.figures} expected={c.expected} />
                  </div>
                ),
              },
              {
                key: "expected",
                label: t("Expected"),
                of: (c) => c.expected,
                cell: (c) => count(c.expected),
                num: true,
              },
              { key: "found", label: t("Found"), of: (c) => c.figures.found, num: true },
              { key: "elsewhere", label: t("Elsewhere"), of: (c) => c.figures.elsewhere, num: true },
              { key: "missing", label: t("Missing"), of: (c) => c.figures.missing, num: true },
              {
                key: "besides",
                label: t("Besides"),
                of: (c) => c.figures["not expected"] + c.figures.unknown,
                num: true,
              },
              { key: "opened", label: t("Opened"), of: (c) => c.made_at, cell: (c) => day(c.made_at) },
              { key: "by", label: t("By"), of: (c) => c.made_by },
            ]}
          />
        </div>
      )}
      {opening && <CountDialog filter="" close={() => setOpening(false)} />}
    </>
  );
}
