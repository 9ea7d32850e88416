import { useQuery } from "@tanstack/react-query";
import { Link, useNavigate } from "@tanstack/react-router";
import { asks } from "../../api/asking";
import type { Schemas } from "../../api/client";
import { DeviceLink } from "../../parts/DeviceLink";
import { count, plural } from "../../parts/format";
import { Empty, Unanswered } from "../../parts/Problem";
import { Sheet } from "../../parts/Sheet";
import type { Column } from "../../parts/table/column";
import { Table } from "../../parts/table/Table";
import type { Search } from "../../search";
import { t, word } from "../../words";
import { deviceColumns } from "./columns";
import { Layers } from "./Layers";
import { ServicesHit } from "./ServicesHit";
import { TakeOut } from "./TakeOut";
import { useUnfolding } from "./unfolding";
import { lasting } from "./words";

interface Props {
  filter: string;
  /** A program of which all instances stop, beside the devices asked for. */
  program?: string | undefined;
  /** How many minutes they are meant to be down. */
  lasts?: number | undefined;
  at: string | undefined;
}

/** What stops, and is weakened, if the devices asked for stop: how many, whom and where it meets, why, and the way back. */
export function IfStops({ filter, program, lasts, at }: Props) {
  const unfolding = useUnfolding(filter, program, at);
  const asked = useQuery({
    ...asks("/api/services/stops", {
      params: {
        query: { filter, program: program ? [program] : [], unfold: unfolding.unfolded, as_of: at },
      },
    }),
    enabled: filter !== "" || program !== undefined,
    placeholderData: (before) => before,
  });
  if (filter === "" && program === undefined)
    return (
      <Empty title={t("Which devices stop?")}>
        {t("Write them above, such as")} <b className="mono">name = salt-db-01</b> {t("or")}{" "}
        <b className="mono">place = Saltholm and kind = switch</b>
        {t(", or begin with the")}{" "}
        <Link to="/services" search={{ at, tab: "singles" }} className="link-quiet font-semibold">
          {t("single points")}
        </Link>{" "}
        {t("or a")}{" "}
        <Link to="/services" search={{ at, tab: "programs" }} className="link-quiet font-semibold">
          {t("program")}
        </Link>
        .
      </Empty>
    );
  if (asked.error || !asked.data) return <Unanswered asked={asked} what={t("Seeing what falls …")} />;
  const told = asked.data;
  if (told.gone.length === 0)
    return (
      <Empty
        title={
          program ? t("No {{program}} runs that calls or is called.", { program }) : t("No device fits that.")
        }
      >
        {t("Nothing stops with it.")}
      </Empty>
    );
  return (
    <>
      <div className="flex flex-wrap items-baseline justify-between gap-x-6">
        <Figures told={told} at={at} />
        {program && filter && (
          <Link
            to="/services"
            search={{ at, tab: "stops", q: filter, lasts }}
            className="link-quiet pb-3 text-[13px]"
          >
            {t("Leave {{program}} running", { program })}
          </Link>
        )}
        <Lasts lasts={lasts} />
      </div>
      <ServicesHit rows={told.services} lasts={lasts} at={at} />
      {told.rows.length === 0 && told.programs.length === 0 ? (
        <Empty title={t("Nothing stands on that.")}>
          {t("No guest, nothing plugged in, and nobody was heard talking to it within thirty days.")}
        </Empty>
      ) : (
        <>
          <div id="falling-picture">
            <Layers picture={told.picture} at={at} unfolding={unfolding} />
          </div>
          <p className="pb-2 text-right">
            <TakeOut name="if-this-stops" filter={filter} at={at} picture="falling-picture" />
          </p>
          <div className="grid grid-cols-[minmax(0,1fr)] items-start gap-3 lg:grid-cols-[minmax(0,1fr)_300px]">
            <div className="grid grid-cols-[minmax(0,1fr)] gap-3">
              {told.rows.length > 0 && (
                <div className="sheet overflow-x-auto">
                  <Fallen rows={told.rows} at={at} />
                </div>
              )}
              <Programs rows={told.programs} at={at} />
            </div>
            <div className="grid gap-3">
              <WayBack steps={told.back} />
              <Met told={told} />
            </div>
          </div>
        </>
      )}
    </>
  );
}

function Figures({ told, at }: { told: Schemas["StopsOut"]; at: string | undefined }) {
  const named = told.gone.slice(0, 3).map((a) => a.name);
  const more = told.gone.length - named.length;
  return (
    <p className="dim flex flex-wrap items-baseline gap-x-6 gap-y-1 pb-3" aria-live="polite">
      <span>
        {t("If")} <b className="mono text-base-content">{named.join(", ")}</b>
        {more > 0 && t(" and {{more}} more", { more: count(more) })}{" "}
        {told.gone.length === 1 ? t("stops") : t("stop")}
      </span>
      <span>
        <Figure of={told.stops} at={at} ink={told.stops.devices ? "!text-error" : ""} />{" "}
        {told.stops.devices === 1 ? t("stops as well") : t("stop as well")}
      </span>
      <span>
        <Figure of={told.weakened} at={at} />{" "}
        {t("{{which}} weakened", { which: told.weakened.devices === 1 ? t("is") : t("are") })}
      </span>
    </p>
  );
}

const LASTS = [15, 30, 60, 120, 240, 480, 1440, 2880];

/** How long it is meant to be down, held against what services promise. */
function Lasts({ lasts }: { lasts: number | undefined }) {
  const navigate = useNavigate();
  return (
    <label className="dim flex items-center gap-2 pb-3 text-[13px]">
      {t("Down for")}
      <select
        className="select select-sm w-36"
        value={lasts ?? ""}
        onChange={(e) =>
          void navigate({
            to: "/services",
            replace: true,
            search: ((before: Search) => ({
              ...before,
              lasts: Number(e.target.value) || undefined,
            })) as never,
          })
        }
      >
        <option value="">{t("not said")}</option>
        {[...new Set([...LASTS, ...(lasts ? [lasts] : [])])].map((minutes) => (
          <option key={minutes} value={minutes}>
            {lasting(minutes)}
          </option>
        ))}
      </select>
    </label>
  );
}

function Figure({ of, at, ink = "" }: { of: Schemas["FallenCount"]; at: string | undefined; ink?: string }) {
  const number = <b className={`text-[19px] ${ink || "text-base-content"}`}>{count(of.devices)}</b>;
  if (!of.filter) return number;
  return (
    <Link to="/estate" search={{ at, q: of.filter }} className="link-quiet">
      {number}
    </Link>
  );
}

function Fallen({ rows, at }: { rows: Schemas["FallenOut"][]; at: string | undefined }) {
  return (
    <Table
      list="fallen"
      label={t("What stops and what is weakened")}
      rows={rows}
      rowKey={(r) => r.asset}
      columns={[...deviceColumns(at), ...fateColumns<Schemas["FallenOut"]>()]}
    />
  );
}

/** What becomes of a device or a program, how far from what stopped first, and why. */
function fateColumns<T extends Schemas["FallenOut"]>(): Column<T>[] {
  return [
    {
      key: "fate",
      label: t("What becomes of it"),
      of: (r) => word(r.fate),
      cell: (r) => <span className={`tag ${r.fate === "stops" ? "bad" : "warn"}`}>{word(r.fate)}</span>,
    },
    {
      key: "hops",
      label: t("Steps"),
      of: (r) => r.hops,
      num: true,
      meaning: t("steps away from what stopped first"),
    },
    {
      key: "because",
      label: t("Because"),
      className: "min-w-64",
      of: (r) => r.because,
      cell: (r) => (
        <span className="whitespace-normal">
          {r.because}
          {r.left.length > 0 && (
            <span className="dim">{t("; it still has {{left}}", { left: r.left.join(", ") })}</span>
          )}
        </span>
      ),
    },
  ];
}

function Programs({ rows, at }: { rows: Schemas["ProgramFallen"][]; at: string | undefined }) {
  if (rows.length === 0) return null;
  return (
    <div className="sheet overflow-x-auto">
      <Table
        list="fallen-programs"
        label={t("Programs that stop or are weakened")}
        rows={rows}
        rowKey={(r) => r.name}
        columns={[
          {
            key: "program",
            label: t("Program"),
            of: (r) => r.program,
            cell: (r) => (
              <Link
                to="/services"
                search={{ at, tab: "stops", program: r.program }}
                className="link-quiet font-semibold"
                title={t("What stops if {{program}} stops", { program: r.program })}
              >
                {r.program}
              </Link>
            ),
          },
          {
            key: "device",
            label: t("On"),
            of: (r) => r.name,
            cell: (r) => (
              <DeviceLink asset={r.asset} at={at}>
                {r.name.replace(t("{{program}} on ", { program: r.program }), "")}
              </DeviceLink>
            ),
          },
          ...fateColumns<Schemas["ProgramFallen"]>(),
        ]}
      />
    </div>
  );
}

function WayBack({ steps }: { steps: string[][] }) {
  return (
    <Sheet id="back" title={t("Bringing it back")} className="">
      <p className="dim px-3.5 pb-1 text-[13px]">{t("What has to be up before what:")}</p>
      <ol className="list-decimal px-3.5 pb-3 pl-8 text-[13px]">
        {steps.map((step) => (
          <li key={step.join()} className="py-0.5">
            <span className="mono">{step.slice(0, 6).join(", ")}</span>
            {step.length > 6 && (
              <span className="dim"> {t("and {{step}} more", { step: step.length - 6 })}</span>
            )}
          </li>
        ))}
      </ol>
    </Sheet>
  );
}

function Met({ told }: { told: Schemas["StopsOut"] }) {
  return (
    <Sheet id="met" title={t("Where, and whom")} className="">
      <ul className="px-3.5 pb-3 text-[13px]">
        {told.places.map((p) => (
          <li key={p.place} className="flex justify-between gap-2 py-0.5">
            <span>{p.place}</span>
            <span className="tabular-nums">{plural(p.stops, "device")}</span>
          </li>
        ))}
        {told.people.length > 0 && (
          <li className="dim pt-1.5">
            {plural(told.people.length, "person", "people")}: {told.people.slice(0, 8).join(", ")}
            {told.people.length > 8 && t(" and {{people}} more", { people: told.people.length - 8 })}
          </li>
        )}
      </ul>
    </Sheet>
  );
}
