import { useQuery } from "@tanstack/react-query";
import { Link } from "@tanstack/react-router";
import { asks } from "../../api/asking";
import type { Schemas } from "../../api/client";
import { quoted } from "../../parts/ask/written";
import { DeviceLink } from "../../parts/DeviceLink";
import { agoWords, plural, shortDay } from "../../parts/format";
import { Section } from "../../parts/Section";
import { t, word } from "../../words";

type Edge = Schemas["StandingEdge"];

interface Props {
  asset: number;
  number: string;
  at: string | undefined;
}

/** Edges told before the rest is counted. */
const TOLD = 8;
/** Kinds of edges over a port that is spoken to. */
const CALLS = new Set(["talks to", "falls back on"]);

/** What the device stands on, and what stands on it. */
export function StandingSection({ asset, number, at }: Props) {
  const { data } = useQuery(
    asks("/api/services/standing/{asset}", { params: { path: { asset }, query: { as_of: at } } }),
  );
  if (!data) return null;
  const stops = { at, tab: "stops", q: `number = ${quoted(number)} and standing != none` };
  return (
    <Section id="standing" title={t("Stands on")} flush>
      <Edges edges={data.on} at={at} far={(e) => e.on} none={t("Nothing is known that it stands on.")} />
      <h3 className="px-3.5 pt-1 text-[13px] font-semibold">{t("Stands on it")}</h3>
      <Edges edges={data.under} at={at} far={(e) => e.stands} none={t("Nothing is known to stand on it.")} />
      <Beside rows={data.beside} at={at} />
      <p className="px-3.5 pb-3 text-[13px]">
        <Link to="/services" search={stops} className="link-quiet font-semibold">
          {t("If it stops")}
        </Link>
        <Link
          to="/services"
          search={{ at, tab: "inquiry", q: number }}
          className="link-quiet ml-4 font-semibold"
        >
          {t("Look into it")}
        </Link>
      </p>
    </Section>
  );
}

/** What it has to do with that is no device: services, programs, networks, names, certificates, shares, people. */
function Beside({ rows, at }: { rows: Schemas["StandingBeside"][]; at: string | undefined }) {
  if (rows.length === 0) return null;
  return (
    <>
      <h3 className="px-3.5 pt-1 text-[13px] font-semibold">{t("Has to do with")}</h3>
      <ul className="pb-2 text-[13px]">
        {rows.map((r) => (
          <li
            key={`${r.kind} ${r.name} ${r.over}`}
            className="flex flex-wrap items-baseline gap-x-2 px-3.5 py-1"
          >
            <span className="dim w-28 shrink-0">{word(r.kind)}</span>
            <span className="min-w-0 flex-1 break-words">
              <Named row={r} at={at} />
              {r.over && <span className="dim"> {OVER[r.kind] ? `${OVER[r.kind]} ${r.over}` : r.over}</span>}
            </span>
          </li>
        ))}
      </ul>
    </>
  );
}

const OVER: Record<string, string> = {
  runs: t("called over"),
  "secured by": t("at port"),
  in: t("as"),
  "named by": t("for"),
};

function Named({ row, at }: { row: Schemas["StandingBeside"]; at: string | undefined }) {
  if (row.service !== null)
    return (
      <Link
        to="/services/$service"
        params={{ service: String(row.service) }}
        search={{ at }}
        className="link-quiet font-semibold"
      >
        {row.name}
      </Link>
    );
  if (row.program !== null)
    return (
      <Link
        to="/services"
        search={{ at, tab: "stops", program: row.program }}
        className="link-quiet font-semibold"
        title={t("What stops if {{program}} stops", { program: row.program })}
      >
        {row.name}
      </Link>
    );
  if (row.filter === null) return <>{row.name}</>;
  return (
    <Link to="/estate" search={{ at, q: row.filter }} className="link-quiet font-semibold">
      {row.name}
    </Link>
  );
}

interface EdgesProps {
  edges: Edge[];
  at: string | undefined;
  far: (edge: Edge) => Schemas["EdgeEnd"];
  none: string;
}

function Edges({ edges, at, far, none }: EdgesProps) {
  if (edges.length === 0) return <p className="dim px-3.5 pb-2 text-[13px]">{none}</p>;
  return (
    <ul className="pb-2 text-[13px]">
      {edges.slice(0, TOLD).map((e) => (
        <li
          key={`${far(e).asset} ${e.kind} ${e.over} ${e.process}`}
          className="flex flex-wrap items-baseline gap-x-2 px-3.5 py-1"
        >
          <DeviceLink asset={far(e).asset} at={at} className="link-quiet mono font-semibold">
            {far(e).name}
          </DeviceLink>
          <span className="dim min-w-0 flex-1">
            {word(e.kind)}
            {e.over && (CALLS.has(e.kind) ? t(", port {{over}}", { over: e.over }) : `, ${e.over}`)}
            {e.process && t(", by {{process}}", { process: e.process })}
          </span>
          <span
            className="faint whitespace-nowrap"
            title={t("{{sure}} % sure, by {{witnesses}}", {
              sure: e.sure,
              witnesses: e.witnesses.join(", "),
            })}
          >
            {e.quiet && <span className="tag bad mr-1.5">{t("quiet")}</span>}
            {at
              ? t("heard {{last_heard}}", { last_heard: shortDay(e.last_heard) })
              : t("heard {{last_heard}}", { last_heard: agoWords(e.last_heard) })}
          </span>
        </li>
      ))}
      {edges.length > TOLD && (
        <li className="dim px-3.5 py-1">
          {t("and {{others}}", { others: plural(edges.length - TOLD, "other") })}
        </li>
      )}
    </ul>
  );
}
