import { useQuery } from "@tanstack/react-query";
import { Link, useNavigate, useSearch } from "@tanstack/react-router";
import { asks } from "../../api/asking";
import type { Schemas } from "../../api/client";
import { AskLine } from "../../parts/ask/AskLine";
import { useDial } from "../../parts/dial";
import { ago, count, plural } from "../../parts/format";
import { Views } from "../../parts/Views";
import type { Search } from "../../search";
import { t } from "../../words";
import { Accepted } from "./Accepted";
import { Advisories } from "./Advisories";
import type { Asked } from "./asked";
import { ByPlace } from "./ByPlace";
import { First } from "./First";
import { HandOn } from "./HandOn";
import { KeptPromises } from "./KeptPromises";
import { OutsideNames } from "./OutsideNames";
import { OverTheYear } from "./OverTheYear";
import { OwnRules } from "./OwnRules";
import { SupportEnds } from "./SupportEnds";

const VIEWS: [string | undefined, string, string][] = [
  [undefined, t("What to do first"), t("the changes that end the most, in their order")],
  ["advisories", t("Advisories"), t("which of all that feeds tell of touch what is here")],
  ["places", t("By place"), t("where most is open, and how grave it is")],
  ["own", t("Findings of our own"), t("what fits the company’s own rules")],
  ["support", t("Support ends"), t("until when makers support what is here")],
  ["promises", t("Kept promises"), t("what ended in its time, and what is late")],
  ["year", t("Over the year"), t("whether it gets less, month by month, as it was known on each day")],
  ["accepted", t("Accepted"), t("what is left open for a while, by whom and why")],
  ["names", t("Names outside"), t("what the products here are called by those who tell of vulnerabilities")],
];
/** Views of the whole company, whatever devices are asked for. */
const OF_ALL = ["names", "accepted"];
/** Views that tell a past day by what is now known as well. */
const BOTH_WAYS = [undefined, "advisories", "places"];

/** The exposure room: what is weak here, and the fewest changes that end the most. */
export function Exposure() {
  const { q = "", tab, known } = useSearch({ strict: false }) as Search;
  const { at } = useDial();
  const navigate = useNavigate();
  const go = (change: Partial<Search>) =>
    void navigate({ to: "/exposure", search: ((before: Search) => ({ ...before, ...change })) as never });
  const ofDevices = !OF_ALL.includes(tab ?? "");
  const view = VIEWS.find(([key]) => key === tab) ?? VIEWS[0];
  const bothWays = at !== undefined && BOTH_WAYS.includes(tab);
  const asked: Asked = { filter: q, at, known: bothWays ? known : undefined };
  return (
    <div className="mx-auto w-full max-w-[1400px] px-4 pb-10">
      <div className="flex flex-wrap items-baseline gap-x-4 gap-y-1 pt-3.5 pb-2">
        <h1>{t("Exposure")}</h1>
        <span className="dim text-[13.5px]">{view?.[2]}</span>
        <span className="flex-1" />
        {ofDevices && <HandOn filter={q} />}
        <FeedsLink />
      </div>
      <Views room="exposure" to="/exposure" views={VIEWS} />
      {ofDevices && (
        <>
          <div className="pt-2.5">
            <AskLine value={q} error={null} submit={(filter) => go({ q: filter || undefined })} />
          </div>
          {bothWays && <Knowledge known={known} set={(known) => go({ known })} />}
          <Figures {...asked} />
        </>
      )}
      {tab === undefined && <First {...asked} />}
      {tab === "advisories" && <Advisories {...asked} />}
      {tab === "year" && <OverTheYear filter={q} at={at} />}
      {tab === "places" && <ByPlace {...asked} />}
      {tab === "own" && <OwnRules {...asked} />}
      {tab === "support" && <SupportEnds {...asked} />}
      {tab === "promises" && <KeptPromises {...asked} />}
      {!ofDevices && <div className="pt-3">{tab === "names" ? <OutsideNames /> : <Accepted />}</div>}
    </div>
  );
}

/** Of a past day: what was known then, or what is now known of it. */
function Knowledge({ known, set }: { known: "now" | undefined; set: (known: "now" | undefined) => void }) {
  return (
    <fieldset
      className="flex flex-wrap items-center gap-2 pt-2 text-[13px]"
      aria-label={t("By which knowledge")}
    >
      {(
        [
          [undefined, t("as it was known on that day")],
          ["now", t("as is now known of that day")],
        ] as const
      ).map(([key, words]) => (
        <button
          key={words}
          type="button"
          aria-pressed={known === key}
          className={`btn btn-sm ${known === key ? "btn-primary" : ""}`}
          onClick={() => set(key)}
        >
          {words}
        </button>
      ))}
    </fieldset>
  );
}

function FeedsLink() {
  const { data } = useQuery(asks("/api/exposure", { params: { query: {} } }));
  return (
    <Link to="/exposure/feeds" search={{}} className="btn btn-sm self-center">
      {data?.read_at
        ? t("Feeds, read {{read_at}} ago", { read_at: ago(data.read_at) }).replace("just now ago", "just now")
        : t("Feeds")}
    </Link>
  );
}

/** How much is open, each figure opening the devices it counts. */
export function Figures({ filter, at, known }: Asked) {
  const { data } = useQuery({
    ...asks("/api/exposure", { params: { query: { filter, as_of: at, known } } }),
    placeholderData: (before) => before,
  });
  if (!data) return <p className="h-11" />;
  const advisories = data.advisories === 1 ? t("advisory touches") : t("advisories touch");
  const more: [Schemas["DevicesOut"], string, string][] = [
    [
      data.used_on,
      t("open to {{advisories}} in use by attackers", {
        advisories: plural(data.used, "advisory", "advisories"),
      }),
      "!text-error",
    ],
    [data.own_on, t("fit {{own}}", { own: plural(data.rules, "rule of our own", "rules of our own") }), ""],
    [data.late_on, t("past a promised day"), ""],
    [data.unsure_on, t("under investigation"), ""],
  ];
  return (
    <p className="dim flex flex-wrap items-baseline gap-x-6 gap-y-1 py-3" aria-live="polite">
      <span>
        <b className="text-[19px] text-base-content">{count(data.advisories)}</b> {advisories}{" "}
        <Devices on={data.on} at={at} /> {t("of {{devices}}", { devices: plural(data.of, "device") })}
      </span>
      {more
        .filter(([on]) => on.devices > 0)
        .map(([on, words, ink]) => (
          <span key={words}>
            <Devices on={on} at={at} ink={ink} /> {words}
          </span>
        ))}
    </p>
  );
}

function Devices({ on, at, ink = "" }: { on: Schemas["DevicesOut"]; at: string | undefined; ink?: string }) {
  return (
    <Link to="/estate" search={{ at, q: on.filter }} className={`link-quiet text-[19px] font-bold ${ink}`}>
      {count(on.devices)}
    </Link>
  );
}
