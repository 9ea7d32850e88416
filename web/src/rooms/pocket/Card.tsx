import { useQuery } from "@tanstack/react-query";
import { Link, useParams } from "@tanstack/react-router";
import { useState } from "react";
import { asks } from "../../api/asking";
import { asRow } from "../../api/types";
import { LabelDialog } from "../../parts/acts/LabelDialog";
import { StepDialog } from "../../parts/acts/StepDialog";
import { quoted } from "../../parts/ask/written";
import { capital, memory, shortDay } from "../../parts/format";
import { useMay } from "../../parts/me";
import { Papers } from "../../parts/Papers";
import { Unanswered } from "../../parts/Problem";
import { agoIn, t, word } from "../../words";
import { Finding } from "./Find";
import { Frame } from "./Frame";
import { Held } from "./Held";
import { Panes } from "./Panes";
import { Signed } from "./Signed";

const CHANGES = 12;

/** One device in the pocket: what it is, who has it, what changed lately, and what is done with it standing there. */
export function Card() {
  const asset = Number((useParams({ strict: false }) as { asset: string }).asset);
  return (
    <Frame title={t("Device")} wide>
      {({ away }) => (
        <Panes phone="right" left={<Finding away={away} />} right={<Device key={asset} asset={asset} />} />
      )}
    </Frame>
  );
}

type Doing = "" | "hand over" | "take back" | "label" | "sign";

function Device({ asset }: { asset: number }) {
  const may = useMay("decide");
  const [doing, setDoing] = useState<Doing>("");
  const [days, setDays] = useState(7);
  const peek = useQuery(asks("/api/assets/{asset}/peek", { params: { path: { asset } } }));
  const plate = peek.data ? asRow(peek.data.plate) : null;
  const number = String(plate?.number ?? "");
  const changes = useQuery(
    asks("/api/assets/{asset}/history", { params: { path: { asset }, query: { days } } }),
  );
  if (peek.error || !plate) return <Unanswered asked={peek} what={t("Opening …")} />;
  const named = String(plate.name || plate.number);
  const facts: [string, string][] = [
    [t("With"), [plate.person, plate.department].filter(Boolean).join(", ")],
    [t("Place"), String(plate.place ?? "")],
    [t("State"), word(String(plate.state ?? ""))],
    [t("System"), [plate["os.name"], plate["os.version"]].filter(Boolean).join(" ")],
    [t("Memory"), plate.memory ? memory(Number(plate.memory)) : ""],
    [t("Address"), String(plate.address ?? "")],
    [t("Serial"), String(plate.serial ?? "")],
    [t("Exposure"), word(String(plate.exposure ?? ""))],
    [t("Last heard"), plate.last_seen ? agoIn(String(plate.last_seen)) : ""],
  ];
  return (
    <div className="grid gap-3.5 px-4 pt-4 pb-8">
      <section className="sheet px-4 py-3" aria-label={named}>
        <div className="flex items-start gap-3">
          <h2 className="mono min-w-0 flex-1 text-[19px]">{named}</h2>
          <span className="mono dim text-[12.5px]">{number}</span>
        </div>
        <p className="dim text-[14px]">
          {[capital(t(String(plate.kind ?? ""))), plate.manufacturer, plate.model]
            .filter(Boolean)
            .join(" · ")}
        </p>
      </section>
      <dl className="grid grid-cols-[112px_1fr] gap-y-1.5 text-[14px]">
        {facts
          .filter(([, value]) => value)
          .map(([label, value]) => (
            <div key={label} className="contents">
              <dt className="dim">{label}</dt>
              <dd>
                {label === t("With") && plate.person ? (
                  <Link
                    to="/pocket/people"
                    search={{ q: String(plate.person) } as never}
                    className="link-quiet font-semibold"
                  >
                    {value}
                  </Link>
                ) : (
                  value
                )}
              </dd>
            </div>
          ))}
      </dl>
      {may && (
        <div className="grid grid-cols-2 gap-2">
          <button type="button" className="btn btn-primary" onClick={() => setDoing("take back")}>
            {t("Take it back")}
          </button>
          <button type="button" className="btn" onClick={() => setDoing("hand over")}>
            {t("Hand over")}
          </button>
          <button type="button" className="btn" onClick={() => setDoing("sign")}>
            {t("Have it signed")}
          </button>
          <button type="button" className="btn" onClick={() => setDoing("label")}>
            {t("Label")}
          </button>
        </div>
      )}
      <p className="flex gap-5 text-[13.5px]">
        <Link
          to="/assets/$asset"
          params={{ asset: String(asset) }}
          search={{}}
          className="link-quiet font-semibold"
        >
          {t("The whole dossier")}
        </Link>
        <Link
          to="/services"
          search={{ tab: "inquiry", q: String(plate.address ?? named) } as never}
          className="link-quiet font-semibold"
        >
          {t("What is wrong with it")}
        </Link>
        <Link
          to="/services"
          search={{ tab: "stops", q: `number = ${quoted(number)}` } as never}
          className="link-quiet font-semibold"
        >
          {t("If it stops")}
        </Link>
      </p>
      <Held asset={asset} number={number} />
      <section>
        <div className="flex items-baseline gap-3 pb-1">
          <h3 className="flex-1 text-[14px] font-semibold">{t("Changed lately")}</h3>
          {[7, 30].map((n) => (
            <button
              key={n}
              type="button"
              aria-pressed={days === n}
              className={`text-[13px] ${days === n ? "font-bold text-primary" : "dim"}`}
              onClick={() => setDays(n)}
            >
              {t("{{count}} day", { count: n })}
            </button>
          ))}
        </div>
        <ul className="text-[13.5px]">
          {changes.data?.slice(0, CHANGES).map((c) => (
            <li key={`${c.at} ${c.section} ${c.thing}`} className="py-0.5">
              {c.thing}{" "}
              <span className="mono text-[12.5px]">{[c.before, c.after].filter(Boolean).join(" → ")}</span>{" "}
              <span className="dim">
                {word(c.verb)}, {shortDay(c.at)}
              </span>
            </li>
          ))}
          {changes.data && changes.data.length > CHANGES && (
            <li className="dim py-0.5">
              {t("and {{count}} change more", { count: changes.data.length - CHANGES })}
            </li>
          )}
          {changes.data?.length === 0 && (
            <li className="dim">{t("Nothing in {{count}} day.", { count: days })}</li>
          )}
        </ul>
      </section>
      <Papers path={`/api/assets/${asset}/papers`} />
      {(doing === "take back" || doing === "hand over") && (
        <StepDialog assets={[asset]} total={1} named={named} first={doing} close={() => setDoing("")} />
      )}
      {doing === "label" && (
        <LabelDialog filter={null} assets={[asset]} named={named} total={1} close={() => setDoing("")} />
      )}
      {doing === "sign" && (
        <Signed asset={asset} named={named} person={String(plate.person ?? "")} close={() => setDoing("")} />
      )}
    </div>
  );
}
