import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { asks } from "../../api/asking";
import type { Schemas } from "../../api/client";
import { DeviceLink } from "../../parts/DeviceLink";
import { count, iso } from "../../parts/format";
import { Empty, Unanswered } from "../../parts/Problem";
import { Table } from "../../parts/table/Table";
import { t, word } from "../../words";

const TAG = { came: "tag good", went: "tag bad", moved: "tag warn" } as const;

interface Props {
  filter: string;
  at: string | undefined;
}

/** What came, went and moved of what stands on what, from an earlier day to the one the dial stands at. */
export function Between({ filter, at }: Props) {
  const [since, setSince] = useState(() => iso(Date.now() / 1000 - 60 * 86_400).slice(0, 10));
  const asked = useQuery({
    ...asks("/api/services/between", { params: { query: { filter, since, as_of: at } } }),
    enabled: since !== "",
    placeholderData: (before) => before,
  });
  return (
    <>
      <div className="flex flex-wrap items-center gap-3 pb-2.5 text-[13.5px]">
        <label className="flex items-center gap-2">
          {t("From")}
          <input
            type="date"
            className="input input-sm"
            value={since}
            max={at ?? undefined}
            onChange={(e) => setSince(e.target.value)}
          />
        </label>
        <span>
          {t("to")} <b>{at ?? t("now")}</b>
        </span>
        {asked.data && (
          <span className="dim" aria-live="polite">
            {t("{{came}} came, {{went}} went, {{moved}} moved", {
              came: count(asked.data.came),
              went: count(asked.data.went),
              moved: count(asked.data.moved),
            })}
          </span>
        )}
      </div>
      {asked.error || !asked.data ? (
        <Unanswered asked={asked} what={t("Holding two days against each other …")} />
      ) : asked.data.rows.length === 0 ? (
        <Empty title={t("Nothing is different.")}>{t("What stands on what is the same on both days.")}</Empty>
      ) : (
        <div className="sheet overflow-x-auto">
          <Differences rows={asked.data.rows} at={at} />
        </div>
      )}
    </>
  );
}

function Differences({ rows, at }: { rows: Schemas["EdgeChange"][]; at: string | undefined }) {
  const end = (e: Schemas["EdgeEnd"]) => (
    <DeviceLink asset={e.asset} at={at} className="link-quiet font-semibold">
      {e.name}
    </DeviceLink>
  );
  return (
    <Table
      list="two-days"
      label={t("What came, went and moved")}
      rows={rows}
      rowKey={(r) => `${r.what} ${r.stands.asset} ${r.on.asset} ${r.kind} ${r.over}`}
      columns={[
        {
          key: "what",
          label: t("Change"),
          of: (r) => r.what,
          cell: (r) => <span className={TAG[r.what]}>{r.what}</span>,
        },
        { key: "stands", label: t("Device"), of: (r) => r.stands.name, cell: (r) => end(r.stands) },
        { key: "kind", label: t("Is"), of: (r) => word(r.kind) },
        { key: "on", label: t("Of what, or where"), of: (r) => r.on.name, cell: (r) => end(r.on) },
        { key: "over", label: t("Port"), of: (r) => r.over },
        {
          key: "before",
          label: t("Before"),
          of: (r) => r.before?.name ?? "",
          cell: (r) =>
            r.before ? (
              <>
                {end(r.before)} {r.before_over}
              </>
            ) : (
              "–"
            ),
        },
      ]}
    />
  );
}
