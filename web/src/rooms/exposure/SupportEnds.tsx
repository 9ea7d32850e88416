import { useQuery } from "@tanstack/react-query";
import { Link } from "@tanstack/react-router";
import { useState } from "react";
import { asks } from "../../api/asking";
import type { Schemas } from "../../api/client";
import { both } from "../../parts/ask/written";
import { count, day, plural } from "../../parts/format";
import { Empty, Unanswered } from "../../parts/Problem";
import { type Sift, Sifts } from "../../parts/Sifts";
import { Table } from "../../parts/table/Table";
import { t, word } from "../../words";
import type { Asked } from "./asked";

type Row = Schemas["SupportOut"];

const SIFTS: Sift<Row>[] = [
  ["all", t("All"), () => true],
  ["over", t("Over"), (r) => r.days < 0],
  ["soon", t("Within 90 days"), (r) => r.days >= 0 && r.days <= 90],
  ["later", t("Later"), (r) => r.days > 90],
];

/** Until when makers support what is here: systems, software, models. */
export function SupportEnds({ filter, at }: Asked) {
  const [sift, setSift] = useState("all");
  const asked = useQuery({
    ...asks("/api/exposure/support", { params: { query: { filter, as_of: at } } }),
    placeholderData: (before) => before,
  });
  if (asked.error || !asked.data)
    return <Unanswered asked={asked} what={t("Looking for ends of support …")} />;
  if (asked.data.length === 0)
    return (
      <Empty title={t("Nothing here has an end of support that is known.")}>
        {t("Feeds bring ends of support, and a list of your own can be taken in under Lifecycle.")}
      </Empty>
    );
  const shown = asked.data.filter(SIFTS.find(([key]) => key === sift)?.[2] ?? (() => true));
  return (
    <>
      <Sifts label={t("Which ends of support")} sifts={SIFTS} rows={asked.data} chosen={sift} set={setSift} />
      {shown.length === 0 ? (
        <Empty title={t("None is of this sort.")}>{t("The other buttons above may have some.")}</Empty>
      ) : (
        <div className="sheet overflow-x-auto">
          <Table
            list="support-ends"
            label={t("Ends of support")}
            rows={shown}
            rowKey={(r) => `${r.sort} ${r.product} ${r.release}`}
            columns={[
              {
                key: "product",
                label: t("What"),
                of: (r) => `${r.product} ${r.release}`.trim(),
                cell: (r) => (
                  <>
                    <b className="font-semibold">{r.product}</b> <span className="mono">{r.release}</span>
                  </>
                ),
              },
              { key: "sort", label: t("Sort"), of: (r) => word(r.sort) },
              {
                key: "day",
                label: t("Supported until"),
                of: (r) => r.day,
                cell: (r) => day(r.day),
                className: "whitespace-nowrap",
              },
              {
                key: "days",
                label: t("Left"),
                of: (r) => r.days,
                cell: (r) =>
                  r.days < 0 ? (
                    <span className="tag bad">
                      {t("over for {{days}}", { days: plural(-r.days, "day") })}
                    </span>
                  ) : (
                    <span className={r.days <= 90 ? "tag warn" : ""}>{plural(r.days, "day")}</span>
                  ),
                className: "whitespace-nowrap",
              },
              {
                key: "devices",
                label: t("Devices"),
                of: (r) => r.devices,
                cell: (r) => (
                  <Link to="/estate" search={{ at, q: both(filter, r.filter) }} className="link-quiet">
                    {count(r.devices)}
                  </Link>
                ),
                num: true,
              },
              { key: "by", label: t("Says"), of: (r) => r.by },
            ]}
          />
        </div>
      )}
    </>
  );
}
