import { useSearch } from "@tanstack/react-router";
import { useState } from "react";
import { useDial } from "../../parts/dial";
import { useMay } from "../../parts/me";
import { AsReport, Views } from "../../parts/Views";
import type { Search } from "../../search";
import { t } from "../../words";
import { NeedForm } from "./Adding";
import { IdleList } from "./IdleList";
import { Keys } from "./Keys";
import { LicenceForm } from "./LicenceForm";
import { Outlook } from "./Outlook";
import { Owned } from "./Owned";
import { Positions } from "./Positions";
import { Purchases } from "./Purchases";
import { Remedy } from "./Remedy";
import { TakeAway } from "./TakeAway";
import { Warnings } from "./Warnings";

const VIEWS: [string | undefined, string, string][] = [
  [undefined, t("Positions"), t("what may be used against what is used, and what a cure costs")],
  ["owned", t("Licences"), t("what was bought, and how much of it is drawn on")],
  ["keys", t("Keys"), t("entered and found, and where each is")],
  ["purchases", t("Purchases"), t("what was bought when, of whom, for how much")],
  ["idle", t("Idle"), t("what could be given up, and what it is worth")],
  ["warnings", t("Warnings"), t("what is wrong, or about to be")],
  ["remedy", t("What to do"), t("the cheapest way to put everything right, as steps")],
  ["outlook", t("Next year"), t("renewals, payments, what is short, and what if people are hired")],
];

const REPORTS = {
  "": "positions",
  owned: "owned",
  keys: "keys",
  idle: "idle",
  warnings: "licence-warnings",
  remedy: "short",
};

/** The licences room: positions with their working, what is owned, keys. */
export function Licences() {
  const { tab } = useSearch({ strict: false }) as Search;
  const { at } = useDial();
  const mayPlan = useMay("plan");
  const may = mayPlan && !at;
  const decides = useMay("decide") && !at;
  const [saying, setSaying] = useState(false);
  const [entering, setEntering] = useState(false);
  const view = VIEWS.find(([key]) => key === tab) ?? VIEWS[0];
  return (
    <div className="flex w-full flex-1 flex-col">
      <div className="flex flex-wrap items-baseline gap-x-4 gap-y-1 px-4 pt-3.5 pb-2">
        <h1>{view?.[1]}</h1>
        <span className="dim text-[13.5px]">{view?.[2]}</span>
        <span className="flex-1" />
        <AsReport reports={REPORTS} />
        {mayPlan && tab === undefined && <TakeAway at={at} />}
        {decides && tab === undefined && (
          <button type="button" className="btn btn-sm" onClick={() => setSaying(true)}>
            {t("Needs a licence")}
          </button>
        )}
        {may && (
          <button type="button" className="btn btn-primary btn-sm" onClick={() => setEntering(true)}>
            {t("Enter a licence")}
          </button>
        )}
      </div>
      <Views room="licences" to="/licences" views={VIEWS} className="px-4" forgets />
      {tab === undefined && <Positions at={at} />}
      {tab === "owned" && <Owned at={at} />}
      {tab === "keys" && <Keys at={at} />}
      {tab === "purchases" && <Purchases at={at} />}
      {tab === "idle" && <IdleList at={at} />}
      {tab === "warnings" && <Warnings at={at} />}
      {tab === "remedy" && <Remedy at={at} />}
      {tab === "outlook" && <Outlook at={at} />}
      {saying && <NeedForm close={() => setSaying(false)} />}
      {entering && <LicenceForm held={null} close={() => setEntering(false)} />}
    </div>
  );
}
