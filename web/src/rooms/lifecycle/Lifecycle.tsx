import { useSearch } from "@tanstack/react-router";
import { Suspense, useState } from "react";
import { useDial } from "../../parts/dial";
import { useMay } from "../../parts/me";
import { Waiting } from "../../parts/Problem";
import { AsReport, Views } from "../../parts/Views";
import type { Search } from "../../search";
import { t } from "../../words";
import { ContractForm } from "./ContractForm";
import { Contracts } from "./Contracts";
import { FeedDialog } from "./FeedDialog";
import { HandOvers } from "./HandOvers";
import { Orders } from "./Orders";
import { Payments } from "./Payments";
import { River } from "./River";
import { StepBook } from "./StepBook";
import { Stock } from "./Stock";

const VIEWS: [string | undefined, string][] = [
  [undefined, t("What ends when")],
  ["contracts", t("Contracts")],
  ["orders", t("Orders")],
  ["stock", t("Stock")],
  ["hand-overs", t("Hand-overs")],
  ["payments", t("Payments")],
];

/** A view that another room has. */
export interface View {
  key: string;
  label: string;
  Shown: React.ComponentType<{ at: string | undefined }>;
}

const REPORTS = { "": "notices", "hand-overs": "in-hands", refresh: "refresh", money: "worth" };

/** The lifecycle room: what ends when, contracts, what is to be paid. */
export function Lifecycle({ more }: { more: View[] }) {
  const { tab } = useSearch({ strict: false }) as Search;
  const { at } = useDial();
  const may = useMay("plan") && !at;
  const [doing, setDoing] = useState<"" | "contract" | "feed" | "steps">("");
  const views = [
    ...VIEWS.slice(0, -1),
    ...more.map((v) => [v.key, v.label] as [string, string]),
    ...VIEWS.slice(-1),
  ];
  const view = views.find(([key]) => key === tab) ?? views[0];
  const other = more.find((v) => v.key === tab);
  return (
    <div className="mx-auto w-full max-w-[1400px] px-4 pb-10">
      <div className="flex flex-wrap items-center gap-x-4 gap-y-1 pt-3.5 pb-2">
        <h1>{view?.[1]}</h1>
        <span className="flex-1" />
        <AsReport reports={REPORTS} />
        <button type="button" className="btn btn-sm" onClick={() => setDoing("feed")}>
          {t("Calendar feed")}
        </button>
        {may && (
          <button type="button" className="btn btn-sm" onClick={() => setDoing("steps")}>
            {t("Steps")}
          </button>
        )}
        {may && (
          <button type="button" className="btn btn-primary btn-sm" onClick={() => setDoing("contract")}>
            {t("Enter a contract")}
          </button>
        )}
      </div>
      <Views room="lifecycle" to="/lifecycle" views={views} className="mb-3" />
      {tab === undefined && <River at={at} />}
      {tab === "contracts" && <Contracts at={at} />}
      {tab === "orders" && <Orders at={at} />}
      {tab === "stock" && <Stock at={at} />}
      {tab === "hand-overs" && <HandOvers at={at} />}
      {other && (
        <Suspense fallback={<Waiting what={t("Counting …")} />}>
          <other.Shown at={at} />
        </Suspense>
      )}
      {tab === "payments" && <Payments at={at} />}
      {doing === "contract" && <ContractForm held={null} close={() => setDoing("")} />}
      {doing === "steps" && <StepBook close={() => setDoing("")} />}
      {doing === "feed" && <FeedDialog close={() => setDoing("")} />}
    </div>
  );
}
