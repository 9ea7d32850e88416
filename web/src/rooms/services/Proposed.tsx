import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { asks } from "../../api/asking";
import type { Schemas } from "../../api/client";
import { count } from "../../parts/format";
import { Unanswered } from "../../parts/Problem";
import { Sheet } from "../../parts/Sheet";
import { Table } from "../../parts/table/Table";
import { t } from "../../words";
import { Opens } from "./Opens";
import { ServiceForm } from "./ServiceForm";

interface Props {
  at: string | undefined;
  may: boolean;
}

/** What many devices call and no service has yet, with what stands behind it. */
export function Proposed({ at, may }: Props) {
  const [chosen, setChosen] = useState<Schemas["ProposedService"] | null>(null);
  const asked = useQuery({
    ...asks("/api/services/proposed", { params: { query: { as_of: at } } }),
    placeholderData: (before) => before,
  });
  if (asked.error || !asked.data)
    return <Unanswered asked={asked} what={t("Looking for what many call …")} />;
  if (asked.data.length === 0) return null;
  return (
    <Sheet id="proposed" title={t("Proposed")} hint={t("what many devices call and no service has yet")}>
      <Table
        list="proposed-services"
        label={t("Proposed services")}
        rows={asked.data}
        rowKey={(r) => `${r.name} ${r.why}`}
        columns={[
          { key: "name", label: t("It may be"), of: (r) => r.name, cell: (r) => <b>{r.name}</b> },
          {
            key: "why",
            label: t("Why"),
            of: (r) => r.why,
            cell: (r) => <span className="whitespace-normal">{r.why}</span>,
          },
          {
            key: "callers",
            label: t("Callers"),
            of: (r) => r.callers.devices,
            num: true,
            cell: (r) => <Opens of={r.callers} at={at} />,
          },
          {
            key: "behind",
            label: t("Done by, and behind it"),
            of: (r) => r.parts.map((p) => p.name).join(", "),
            cell: (r) => r.parts.map((p) => `${p.name} (${count(p.members.devices)})`).join(", "),
          },
          {
            key: "do",
            label: "",
            cell: (r) =>
              may && (
                <button
                  type="button"
                  className="link-quiet font-semibold whitespace-nowrap"
                  onClick={() => setChosen(r)}
                >
                  {t("Make it a service")}
                </button>
              ),
          },
        ]}
      />
      {chosen && <ServiceForm held={null} proposed={chosen} close={() => setChosen(null)} />}
    </Sheet>
  );
}
