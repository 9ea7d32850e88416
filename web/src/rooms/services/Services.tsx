import { useNavigate, useSearch } from "@tanstack/react-router";
import { AskLine } from "../../parts/ask/AskLine";
import { useDial } from "../../parts/dial";
import { Views } from "../../parts/Views";
import type { Search } from "../../search";
import { t } from "../../words";
import { Between } from "./Between";
import { Certificates } from "./Certificates";
import { Hosts } from "./Hosts";
import { IfStops } from "./IfStops";
import { Inquiry } from "./Inquiry";
import { KeptServices } from "./KeptServices";
import { Noise } from "./Noise";
import { Ports } from "./Ports";
import { Programs } from "./Programs";
import { Racks } from "./Racks";
import { SinglePoints } from "./SinglePoints";
import { Subnets } from "./Subnets";
import { Talk } from "./Talk";
import { Vlans } from "./Vlans";

const VIEWS: [string | undefined, string, string][] = [
  [undefined, t("Services"), t("what the company gives to people, and how it stands")],
  ["inquiry", t("Inquiry"), t("what one has in the bad hour, and all that is known of it under one clock")],
  ["stops", t("If this stops"), t("what stops with it, what is weakened, and why")],
  ["singles", t("Single points"), t("devices that nothing stands in for, worst first")],
  [
    "links",
    t("Ports and links"),
    t("every switch with its ports and who is behind them, as they tell of each other"),
  ],
  [
    "subnets",
    t("Subnets"),
    t("networks by devices’ own addresses, how full they are, and who routes for them"),
  ],
  ["vlans", t("VLANs"), t("whom switches met in which VLAN, and over which ports each goes")],
  ["hosts", t("Virtual hosts"), t("hosts with their guests, and what they have given them")],
  ["racks", t("Racks and power"), t("what stands in which height unit, and what feeds it")],
  [
    "certificates",
    t("Certificates"),
    t("who presents which, who signed it, and whom its end would turn away"),
  ],
  ["talk", t("Talk"), t("who speaks with whom")],
  ["between", t("Two days"), t("what came, went and moved")],
  ["programs", t("Unknown programs"), t("what runs, is no known application, and looks alike")],
  ["noise", t("Noise"), t("talk that says nothing of what stands on what")],
];

/** Views of a selection. */
const ASKS = new Set([
  "stops",
  "singles",
  "links",
  "subnets",
  "vlans",
  "hosts",
  "racks",
  "certificates",
  "talk",
  "between",
]);

/** The services room: what stands on what, derived from guests, plugs and talk, and what stops if something stops. */
export function Services() {
  const { q = "", tab, program, lasts } = useSearch({ strict: false }) as Search;
  const { at } = useDial();
  const navigate = useNavigate();
  const view = VIEWS.find(([key]) => key === tab) ?? VIEWS[0];
  const go = (filter: string) =>
    void navigate({
      to: "/services",
      search: ((before: Search) => ({ ...before, q: filter || undefined })) as never,
    });
  return (
    <div className="mx-auto w-full max-w-[1400px] px-4 pb-10">
      <div className="flex flex-wrap items-baseline gap-x-4 gap-y-1 pt-3.5 pb-2">
        <h1>{t("Services")}</h1>
        <span className="dim text-[13.5px]">{view?.[2]}</span>
      </div>
      <Views room="services" to="/services" views={VIEWS} forgets />
      {ASKS.has(tab ?? "") && (
        <div className="py-2.5">
          <AskLine value={q} error={null} submit={go} />
        </div>
      )}
      {tab === undefined && <KeptServices at={at} />}
      {tab === "stops" && <IfStops filter={q} program={program} lasts={lasts} at={at} />}
      {tab === "singles" && <SinglePoints filter={q} at={at} />}
      {tab === "links" && <Ports filter={q} at={at} />}
      {tab === "subnets" && <Subnets filter={q} at={at} />}
      {tab === "vlans" && <Vlans filter={q} at={at} />}
      {tab === "hosts" && <Hosts filter={q} at={at} />}
      {tab === "racks" && <Racks filter={q} at={at} />}
      {tab === "certificates" && <Certificates filter={q} at={at} />}
      {tab === "talk" && <Talk filter={q} at={at} />}
      {tab === "between" && <Between filter={q} at={at} />}
      {tab === "inquiry" && <Inquiry at={at} />}
      {tab === "programs" && <Programs at={at} />}
      {tab === "noise" && <Noise />}
    </div>
  );
}
