import { useQuery } from "@tanstack/react-query";
import { Link } from "@tanstack/react-router";
import { useState } from "react";
import { asks } from "../../api/asking";
import type { Schemas } from "../../api/client";
import { count } from "../../parts/format";
import { useMay } from "../../parts/me";
import { Empty, Unanswered } from "../../parts/Problem";
import { Table } from "../../parts/table/Table";
import { t } from "../../words";
import { Opens } from "./Opens";
import { Proposed } from "./Proposed";
import { ServiceForm } from "./ServiceForm";
import { Signs } from "./Signs";
import { within } from "./words";

/** The services people keep, how each stands, and those that talk speaks for and nobody keeps yet. */
export function KeptServices({ at }: { at: string | undefined }) {
  const [making, setMaking] = useState(false);
  const asked = useQuery({
    ...asks("/api/services", { params: { query: { as_of: at } } }),
    placeholderData: (before) => before,
  });
  const may = useMay("plan") && !at;
  if (asked.error || !asked.data) return <Unanswered asked={asked} what={t("Seeing how services stand …")} />;
  return (
    <>
      <div className="flex flex-wrap items-center gap-3 py-2.5">
        <p className="dim max-w-3xl text-[13.5px]">
          {t(
            "What the company gives to people, and the devices that do it. Members follow from rules, as the evidence has them.",
          )}
        </p>
        <span className="flex-1" />
        {may && (
          <button type="button" className="btn btn-sm btn-primary" onClick={() => setMaking(true)}>
            {t("New service")}
          </button>
        )}
      </div>
      {asked.data.length === 0 ? (
        <Empty title={t("No service is kept yet.")}>
          {t(
            "Begin with one that is proposed below, or write one: its name, and rules for the devices that do it.",
          )}
        </Empty>
      ) : (
        <div className="sheet overflow-x-auto">
          <Listed rows={asked.data} at={at} />
        </div>
      )}
      <Proposed at={at} may={may} />
      {making && <ServiceForm held={null} close={() => setMaking(false)} />}
    </>
  );
}

function Listed({ rows, at }: { rows: Schemas["ServiceBrief"][]; at: string | undefined }) {
  return (
    <Table
      list="services"
      label={t("Services")}
      rows={rows}
      rowKey={(r) => r.id}
      columns={[
        {
          key: "name",
          label: t("Service"),
          of: (r) => r.name,
          className: "min-w-48",
          cell: (r) => (
            <>
              <Link
                to="/services/$service"
                params={{ service: String(r.id) }}
                search={{ at }}
                className="link-quiet font-semibold"
              >
                {r.name}
              </Link>
              {r.importance === "high" && <span className="tag ml-1.5">{t("much hangs on it")}</span>}
              <span className="faint block text-[12px] whitespace-normal">{r.purpose}</span>
            </>
          ),
        },
        {
          key: "signs",
          label: t("How it stands"),
          of: (r) => r.signs.map((s) => s.text).join("; "),
          className: "min-w-72",
          cell: (r) => <Signs signs={r.signs} at={at} most={3} />,
        },
        {
          key: "parts",
          label: t("Parts"),
          of: (r) => r.parts.map((p) => p.name).join(", "),
          cell: (r) => (
            <ul className="text-[12.5px]">
              {r.parts.map((p) => (
                <li key={p.name} className={p.spare < 0 ? "text-error" : ""}>
                  {p.name} <span className="dim tabular-nums">{count(p.members.devices)}</span>
                </li>
              ))}
            </ul>
          ),
        },
        {
          key: "members",
          label: t("Devices"),
          of: (r) => r.members.devices,
          num: true,
          cell: (r) => <Opens of={r.members} at={at} />,
        },
        {
          key: "owner",
          label: t("Owner"),
          of: (r) => r.owner,
          cell: (r) => (
            <>
              {r.owner || <span className="dim">{t("nobody")}</span>}
              <span className="faint block text-[12px]">{within(r.promise)}</span>
            </>
          ),
        },
      ]}
    />
  );
}
