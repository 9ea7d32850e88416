import { useSearch } from "@tanstack/react-router";
import { useState } from "react";
import { useDial } from "../../parts/dial";
import { useMay } from "../../parts/me";
import { AsReport, Views } from "../../parts/Views";
import type { Search } from "../../search";
import { HandOvers } from "../steps/HandOvers";
import { StepBook } from "../steps/StepBook";
import { Stock } from "../steps/Stock";
import { Money } from "../valuation/Money";
import { RefreshPlan } from "../valuation/RefreshPlan";
import { ContractForm } from "./ContractForm";
import { Contracts } from "./Contracts";
import { FeedDialog } from "./FeedDialog";
import { Orders } from "./Orders";
import { Payments } from "./Payments";
import { River } from "./River";

const VIEWS: [string | undefined, string][] = [
  [undefined, "What ends when"],
  ["contracts", "Contracts"],
  ["orders", "Orders"],
  ["stock", "Stock"],
  ["hand-overs", "Hand-overs"],
  ["refresh", "Refresh plan"],
  ["money", "Money"],
  ["payments", "Payments"],
];

const REPORTS = { "": "notices", "hand-overs": "in-hands", refresh: "refresh", money: "worth" };

/** The lifecycle room: what ends when, contracts, what is to be paid. */
export function Lifecycle() {
  const { tab } = useSearch({ strict: false }) as Search;
  const { at } = useDial();
  const may = useMay("plan") && !at;
  const [doing, setDoing] = useState<"" | "contract" | "feed" | "steps">("");
  const view = VIEWS.find(([key]) => key === tab) ?? VIEWS[0];
  return (
    <div className="mx-auto w-full max-w-[1400px] px-4 pb-10">
      <div className="flex flex-wrap items-center gap-x-4 gap-y-1 pt-3.5 pb-2">
        <h1>{view?.[1]}</h1>
        <span className="flex-1" />
        <AsReport reports={REPORTS} />
        <button type="button" className="btn btn-sm" onClick={() => setDoing("feed")}>
          Calendar feed
        </button>
        {may && (
          <button type="button" className="btn btn-sm" onClick={() => setDoing("steps")}>
            Steps
          </button>
        )}
        {may && (
          <button type="button" className="btn btn-primary btn-sm" onClick={() => setDoing("contract")}>
            Enter a contract
          </button>
        )}
      </div>
      <Views room="lifecycle" to="/lifecycle" views={VIEWS} className="mb-3" />
      {tab === undefined && <River at={at} />}
      {tab === "contracts" && <Contracts at={at} />}
      {tab === "orders" && <Orders at={at} />}
      {tab === "stock" && <Stock at={at} />}
      {tab === "hand-overs" && <HandOvers at={at} />}
      {tab === "refresh" && <RefreshPlan at={at} />}
      {tab === "money" && <Money at={at} />}
      {tab === "payments" && <Payments at={at} />}
      {doing === "contract" && <ContractForm held={null} close={() => setDoing("")} />}
      {doing === "steps" && <StepBook close={() => setDoing("")} />}
      {doing === "feed" && <FeedDialog close={() => setDoing("")} />}
    </div>
  );
}
