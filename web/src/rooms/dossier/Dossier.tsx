import { useQuery, useQueryClient } from "@tanstack/react-query";
import { Link, useParams } from "@tanstack/react-router";
import { useState } from "react";
import { asks } from "../../api/asking";
import { asRow, type Row, type Sighting } from "../../api/types";
import { CoverSection } from "../../parts/acts/Cover";
import { LabelDialog } from "../../parts/acts/LabelDialog";
import { StepDialog } from "../../parts/acts/StepDialog";
import { shownMoment } from "../../parts/days";
import { dialWords, useDial } from "../../parts/dial";
import { sourceWords } from "../../parts/Evidence";
import { agoWords, day, plural } from "../../parts/format";
import { useMay } from "../../parts/me";
import { PapersSection } from "../../parts/Papers";
import { Plate } from "../../parts/Plate";
import { Problem, Waiting } from "../../parts/Problem";
import { Ribbon, RibbonLegend } from "../../parts/Ribbon";
import { t } from "../../words";
import { EditDialog } from "./EditDialog";
import { EvidenceSection } from "./EvidenceSection";
import { ExposureSection } from "./ExposureSection";
import { HistorySection } from "./HistorySection";
import { IdentityDialog } from "./IdentityDialog";
import { LifeSection } from "./LifeSection";
import { AcquisitionSection, ListSections, ManagementSection } from "./ListSections";
import { MoneySection } from "./MoneySection";
import { OwnSection } from "./OwnSection";
import {
  AccountsSection,
  HardwareSection,
  IdentitySection,
  type Items,
  NetworkSection,
  PeopleSection,
} from "./Sections";
import { SoftwareSection } from "./SoftwareSection";
import { StandingSection } from "./StandingSection";

const DAY = 86_400_000;

/** Everything held about one asset, on one page; the year's ribbon drags it through time. */
export function Dossier() {
  const { asset } = useParams({ strict: false }) as { asset: string };
  const { at, turn, past } = useDial();
  const [same, setSame] = useState(false);
  const [labelling, setLabelling] = useState(false);
  const [editing, setEditing] = useState(false);
  const [stepping, setStepping] = useState(false);
  const mayDecide = useMay("decide");
  const queries = useQueryClient();
  const dossier = useQuery({
    ...asks("/api/assets/{asset}", { params: { path: { asset: Number(asset) }, query: { as_of: at } } }),
    placeholderData: (before) => before,
  });
  const ribbon = useQuery(
    asks("/api/assets/{asset}/ribbon", { params: { path: { asset: Number(asset) }, query: { days: 365 } } }),
  );
  const history = useQuery({
    ...asks("/api/assets/{asset}/history", {
      params: { path: { asset: Number(asset) }, query: { as_of: at } },
    }),
    enabled: !dossier.error,
  });
  if (dossier.error) {
    return (
      <div className="mx-auto w-full max-w-xl p-6">
        <Problem error={dossier.error} />
        <div className="mt-3 flex gap-2">
          {past && (
            <button type="button" className="btn btn-primary btn-sm" onClick={() => turn(null)}>
              {t("Back to now")}
            </button>
          )}
          <button type="button" className="btn btn-sm" onClick={() => window.history.back()}>
            {t("Go back")}
          </button>
        </div>
      </div>
    );
  }
  if (!dossier.data) return <Waiting what={t("Opening the dossier …")} />;
  const { claims, software, sightings, guess, sure, guess_reasons } = dossier.data;
  const plate = asRow(dossier.data.plate);
  const items = dossier.data.items as Items;
  const now = new Date();
  const shownAt = new Date(shownMoment(at?.slice(0, 10)));
  const sections: [string, string, number | null][] = [
    ["identity", t("Identity"), null],
    ["hardware", t("Hardware"), null],
    ["software", t("Software"), software.length],
    ["network", t("Network"), items.interfaces?.length ?? 0],
    ["people", t("People"), null],
    ["accounts", t("Accounts"), items.accounts?.length ?? 0],
    ["acquisition", t("Acquisition"), null],
    ["money", t("Money"), null],
    ["standing", t("Stands on"), null],
    ["exposure", t("Open to"), null],
    ["history", t("History"), history.data?.length ?? null],
    ["evidence", t("Evidence"), sightings.length],
  ];
  return (
    <div className="mx-auto w-full max-w-[1440px] px-4 pb-10">
      <div className="grid grid-cols-[minmax(0,1fr)] items-center gap-x-5 gap-y-2 py-3.5 md:grid-cols-[minmax(360px,auto)_1fr_auto]">
        <Plate row={plate} />
        <Summary plate={plate} sightings={sightings} at={at} />
        {mayDecide && !past && (
          <div className="flex flex-wrap gap-2">
            <button type="button" className="btn" onClick={() => setStepping(true)}>
              {t("Take a step")}
            </button>
            <button type="button" className="btn" onClick={() => setSame(true)}>
              {t("Merge or split")}
            </button>
            <button type="button" className="btn" onClick={() => setLabelling(true)}>
              {t("Label")}
            </button>
            <button type="button" className="btn btn-primary" onClick={() => setEditing(true)}>
              {t("Assign or correct")}
            </button>
          </div>
        )}
      </div>
      <div className="sheet px-3.5 pt-2 pb-1">
        <div className="dim flex flex-wrap justify-between gap-x-4 text-[12px]">
          <span>{t("A year on this machine")}</span>
          <RibbonLegend />
          <span>{past && at ? dialWords(at) : t("Drag or click to see it as it was")}</span>
        </div>
        <Ribbon
          days={ribbon.data ?? []}
          from={new Date(now.getTime() - 365 * DAY)}
          to={now}
          at={shownAt}
          height={66}
          onPick={turn}
        />
      </div>
      <div className="grid grid-cols-[minmax(0,1fr)] gap-3 pt-3 md:grid-cols-[124px_minmax(0,1fr)] lg:grid-cols-[124px_minmax(0,1fr)_minmax(0,1fr)]">
        <nav
          aria-label={t("Sections")}
          className="sticky top-2 hidden self-start text-[13px] leading-[27px] md:block"
        >
          {sections.map(([id, words, n]) => (
            <a key={id} href={`#${id}`} className="dim flex items-baseline gap-2 hover:text-primary">
              {words}
              {n !== null && <span className="faint tabular-nums">{n}</span>}
            </a>
          ))}
        </nav>
        <div className="grid min-w-0 grid-cols-[minmax(0,1fr)] content-start gap-3">
          <IdentitySection
            plate={plate}
            claims={claims}
            guess={guess}
            sure={sure}
            reasons={guess_reasons}
            matched={sightings.find((s) => s.source_kind !== "hand")?.reasons.at(-1)}
          />
          <HardwareSection plate={plate} claims={claims} items={items} />
          <NetworkSection plate={plate} claims={claims} items={items} />
          <PeopleSection plate={plate} claims={claims} items={items} />
          <AccountsSection items={items} />
          <LifeSection asset={Number(plate.id)} />
          <AcquisitionSection claims={claims} asset={Number(plate.id)} />
          <CoverSection asset={Number(plate.id)} />
          <MoneySection asset={Number(plate.id)} />
          <ManagementSection claims={claims} />
          <OwnSection plate={plate} claims={claims} />
          <PapersSection asset={Number(plate.id)} />
        </div>
        <div className="grid min-w-0 grid-cols-[minmax(0,1fr)] content-start gap-3 md:col-start-2 lg:col-start-3">
          <HistorySection changes={history.data} error={history.error} firstSeen={String(plate.first_seen)} />
          <StandingSection asset={Number(plate.id)} number={String(plate.number)} at={at} />
          <ExposureSection number={String(plate.number)} at={at} />
          <SoftwareSection software={software} asset={Number(plate.id)} />
          <ListSections items={items} />
          <EvidenceSection
            sightings={sightings}
            asset={Number(plate.id)}
            address={plate.address ? String(plate.address) : ""}
          />
        </div>
      </div>
      {labelling && (
        <LabelDialog
          filter={null}
          assets={[Number(asset)]}
          named={String(plate.name ?? plate.number)}
          total={1}
          close={() => setLabelling(false)}
        />
      )}
      {same && (
        <IdentityDialog
          plate={plate}
          sightings={sightings}
          close={() => setSame(false)}
          saved={() => {
            setSame(false);
            void queries.invalidateQueries();
          }}
        />
      )}
      {stepping && (
        <StepDialog
          assets={[Number(plate.id)]}
          total={1}
          named={String(plate.name ?? plate.number)}
          close={() => setStepping(false)}
        />
      )}
      {editing && (
        <EditDialog
          plate={plate}
          claims={claims}
          close={() => setEditing(false)}
          saved={() => {
            setEditing(false);
            void queries.invalidateQueries();
          }}
        />
      )}
    </div>
  );
}

function Summary({ plate, sightings, at }: { plate: Row; sightings: Sighting[]; at: string | undefined }) {
  const kinds = [...new Set(sightings.map((s) => s.source_kind))];
  const last = sightings.find((s) => s.source_kind !== "hand" && s.source_kind !== "file");
  return (
    <p className="dim text-[13.5px]">
      {plate.place ? t("At {{place}}. ", { place: plate.place }) : ""}
      {plate.person ? (
        <>
          {t("Held by")}{" "}
          <Link
            to="/people/$person"
            params={{ person: String(plate.person) }}
            search={{ at }}
            className="font-semibold underline"
          >
            {plate.person}
          </Link>
          {plate.department ? `, ${plate.department}` : ""}.{" "}
        </>
      ) : plate.department ? (
        t("Belongs to {{department}}. ", { department: plate.department })
      ) : (
        t("Nobody is named as its holder. ")
      )}
      <br className="hidden lg:block" />
      {t("Known from {{kinds}}{{which}}", {
        kinds: kinds.map(sourceWords).join(", ") || t("nothing yet"),
        which: last
          ? at
            ? t("; last read {{at}}.", { at: day(last.at) })
            : t("; last read {{at}}.", { at: agoWords(last.at) })
          : ".",
      })}{" "}
      {plate.standing === "intake" && (
        <span className="tag warn">{t("waits at intake: not tracked yet")}</span>
      )}
      {plate.aside_reason && (
        <span className="tag">{t("set aside: {{aside_reason}}", { aside_reason: plate.aside_reason })}</span>
      )}{" "}
      {plate.note && <span className="block">“{plate.note}”</span>}
      <span className="sr-only">{plural(sightings.length, "sighting")}</span>
    </p>
  );
}
