import { useQuery } from "@tanstack/react-query";
import { Link, useParams } from "@tanstack/react-router";
import { useState } from "react";
import { asks } from "../../api/asking";
import type { Schemas } from "../../api/client";
import { useDial } from "../../parts/dial";
import { amount, count, moment, plural } from "../../parts/format";
import { useMay } from "../../parts/me";
import { Unanswered } from "../../parts/Problem";
import { Sheet } from "../../parts/Sheet";
import { Table } from "../../parts/table/Table";
import { t } from "../../words";
import { deviceColumns } from "./columns";
import { Layers } from "./Layers";
import { Opens } from "./Opens";
import { ServiceForm } from "./ServiceForm";
import { ServiceMembers } from "./ServiceMembers";
import { Signs } from "./Signs";
import { TellForm } from "./TellForm";
import { needed, within } from "./words";

/** One service: how it stands, what it stands on, its members and why, where it is reached, and whom to call. */
export function ServicePage() {
  const { service } = useParams({ strict: false }) as { service: string };
  const { at } = useDial();
  const [changing, setChanging] = useState(false);
  const [telling, setTelling] = useState(false);
  const [may, mayTell] = [useMay("plan") && !at, useMay("keep") && !at];
  const asked = useQuery({
    ...asks("/api/services/{number}", {
      params: { path: { number: Number(service) }, query: { as_of: at } },
    }),
    placeholderData: (before) => before,
  });
  if (asked.error || !asked.data) return <Unanswered asked={asked} what={t("Seeing how it stands …")} />;
  const told = asked.data;
  return (
    <div className="mx-auto w-full max-w-[1400px] px-4 pb-10">
      <p className="pt-3 text-[13px]">
        <Link to="/services" search={{ at }} className="link-quiet">
          {t("Services")}
        </Link>
      </p>
      <div className="flex flex-wrap items-baseline gap-x-4 gap-y-1 pb-3">
        <h1>{told.name}</h1>
        {told.importance === "high" && <span className="tag">{t("much hangs on it")}</span>}
        <span className="dim text-[13.5px]">{told.purpose}</span>
        <span className="flex-1" />
        <Link
          to="/services"
          search={{ at, tab: "stops", q: `serves[name = "${told.name.replaceAll('"', '\\"')}"]` }}
          className="btn btn-sm"
        >
          {t("If its devices stop")}
        </Link>
        {mayTell && (
          <button type="button" className="btn btn-sm" onClick={() => setTelling(true)}>
            {t("Tell who comes and goes")}
          </button>
        )}
        {may && (
          <button type="button" className="btn btn-sm btn-primary" onClick={() => setChanging(true)}>
            {t("Change")}
          </button>
        )}
      </div>
      <div className="grid grid-cols-[minmax(0,1fr)] items-start gap-3 lg:grid-cols-[minmax(0,1fr)_300px]">
        <div>
          <Layers picture={told.picture} at={at} across={900} />
          <ServiceMembers told={told} at={at} may={may} />
          <Changes rows={told.changes} at={at} />
        </div>
        <div className="grid gap-3">
          <Sheet id="health" title={t("How it stands")} className="">
            <div className="px-3.5 pb-3">
              <Signs signs={told.signs} at={at} />
            </div>
          </Sheet>
          <Whose told={told} at={at} />
          <PartList told={told} at={at} />
          <Beside told={told} at={at} />
          <Beneath told={told} at={at} />
        </div>
      </div>
      {telling && <TellForm number={told.id} name={told.name} close={() => setTelling(false)} />}
      {changing && <ServiceForm held={told} close={() => setChanging(false)} />}
    </div>
  );
}

interface Told {
  told: Schemas["ServiceOut"];
  at: string | undefined;
}

function Whose({ told, at }: Told) {
  return (
    <Sheet id="whose" title={t("Whose, and what is promised")} className="">
      <dl className="grid grid-cols-[90px_1fr] gap-x-2 gap-y-1 px-3.5 pb-3 text-[13px]">
        <dt className="dim">{t("Owner")}</dt>
        <dd>{told.owner || t("nobody")}</dd>
        {told.deputies.length > 0 && (
          <>
            <dt className="dim">{t("Deputies")}</dt>
            <dd>{told.deputies.join(", ")}</dd>
          </>
        )}
        <dt className="dim">{t("Promise")}</dt>
        <dd>{within(told.promise)}</dd>
        {told.hours && (
          <>
            <dt className="dim">{t("Hours")}</dt>
            <dd>{told.hours}</dd>
          </>
        )}
        {told.places.length > 0 && (
          <>
            <dt className="dim">{t("Places")}</dt>
            <dd>{told.places.join(", ")}</dd>
          </>
        )}
        {told.entries.map((entry) => (
          <div key={`${entry.host} ${entry.port}`} className="col-span-2 grid grid-cols-subgrid">
            <dt className="dim">{t("Reached at")}</dt>
            <dd>
              <span className="mono break-all">
                {entry.host}
                {entry.port !== null && `:${entry.port}`}
              </span>
              <span className="faint block text-[12px]">
                {entry.devices.length === 0
                  ? t("no device is known by that")
                  : entry.devices.map((d) => d.name).join(", ")}
              </span>
            </dd>
          </div>
        ))}
        <dt className="dim">{t("Stand on it")}</dt>
        <dd>
          <Opens of={told.under} at={at}>
            {told.under.devices ? plural(told.under.devices, "device") : t("no device")}
          </Opens>
        </dd>
      </dl>
      {told.notes && <p className="px-3.5 pb-3 text-[13px] whitespace-pre-line">{told.notes}</p>}
    </Sheet>
  );
}

function PartList({ told, at }: Told) {
  return (
    <Sheet id="parts" title={t("Parts and rules")} className="">
      <ul className="grid gap-2 px-3.5 pb-3 text-[13px]">
        {told.parts.map((part) => (
          <li key={part.name}>
            <b>{part.name}</b>{" "}
            <span className={part.spare < 0 ? "text-error" : "dim"}>
              <Opens of={part.members} at={at}>
                {part.members.devices ? plural(part.members.devices, "device") : t("no device")}
              </Opens>
              , {needed(part, part.members.devices)}
            </span>
            {part.rules.map((rule) => (
              <span key={rule.filter} className="mono faint block text-[12px] break-words">
                {rule.filter}
              </span>
            ))}
          </li>
        ))}
      </ul>
    </Sheet>
  );
}

/** What other rooms tell of its devices, and what they cost a month. */
function Beside({ told, at }: Told) {
  const filter = told.members.filter ?? "";
  const money = useQuery({
    ...asks("/api/valuation/money", { params: { query: { filter, as_of: at, limit: 1 } } }),
    enabled: filter !== "",
  });
  if (!filter) return null;
  const lenses = [
    ["changes", t("What changed on them")],
    ["exposure", t("What they are open to")],
    ["software", t("What is installed on them")],
    ["money", t("What they cost")],
  ] as const;
  return (
    <Sheet id="beside" title={t("Its devices")} className="">
      <ul className="px-3.5 pb-3 text-[13px]">
        {lenses.map(([tab, label]) => (
          <li key={tab} className="flex justify-between gap-2 py-0.5">
            <Link to="/estate" search={{ at, tab, q: filter }} className="link-quiet">
              {label}
            </Link>
            {tab === "money" && money.data && (
              <span>
                {t("{{month}} {{currency}} a month", {
                  month: amount(money.data.whole.month),
                  currency: money.data.currency,
                })}
              </span>
            )}
          </li>
        ))}
      </ul>
    </Sheet>
  );
}

function Beneath({ told, at }: Told) {
  if (told.singles.length === 0) return null;
  return (
    <Sheet id="singles" title={t("It stops with")} hint={count(told.singles.length)} className="">
      <ul className="px-3.5 pb-3 text-[13px]">
        {told.singles.slice(0, 12).map((s) => (
          <li key={s.asset} className="flex justify-between gap-2 py-0.5">
            <Link
              to="/services"
              search={{ at, tab: "stops", q: `number = ${s.number} and standing != none` }}
              className="link-quiet mono"
            >
              {s.name}
            </Link>
            <span className="dim">{s.kind}</span>
          </li>
        ))}
        {told.singles.length > 12 && (
          <li className="dim">{t("and {{singles}} more", { singles: told.singles.length - 12 })}</li>
        )}
      </ul>
    </Sheet>
  );
}

function Changes({ rows, at }: { rows: Schemas["MemberChange"][]; at: string | undefined }) {
  if (rows.length === 0) return null;
  return (
    <Sheet id="changes" title={t("Gained and lost")}>
      <Table
        list="service-changes"
        label={t("Members gained and lost")}
        rows={rows}
        rowKey={(r) => `${r.at} ${r.asset} ${r.part} ${r.came}`}
        columns={[
          ...deviceColumns<Schemas["MemberChange"]>(at),
          { key: "part", label: t("Part"), of: (r) => r.part },
          {
            key: "came",
            label: t("What"),
            of: (r) => (r.came ? t("gained") : t("lost")),
            cell: (r) => (
              <span className={`tag ${r.came ? "good" : "bad"}`}>{r.came ? t("gained") : t("lost")}</span>
            ),
          },
          { key: "at", label: t("When"), of: (r) => r.at, cell: (r) => moment(r.at) },
          { key: "because", label: t("It was one because"), of: (r) => r.because },
        ]}
      />
    </Sheet>
  );
}
