import { useQuery } from "@tanstack/react-query";
import { Link } from "@tanstack/react-router";
import { asks } from "../../api/asking";
import type { Schemas } from "../../api/client";
import { quoted } from "../../parts/ask/written";
import { DeviceLink } from "../../parts/DeviceLink";
import { agoWords, plural, shortDay } from "../../parts/format";
import { Section } from "../../parts/Section";

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
    <Section id="standing" title="Stands on" flush>
      <Edges edges={data.on} at={at} far={(e) => e.on} none="Nothing is known that it stands on." />
      <h3 className="px-3.5 pt-1 text-[13px] font-semibold">Stands on it</h3>
      <Edges edges={data.under} at={at} far={(e) => e.stands} none="Nothing is known to stand on it." />
      <p className="px-3.5 pb-3 text-[13px]">
        <Link to="/services" search={stops} className="link-quiet font-semibold">
          If it stops
        </Link>
        <Link
          to="/services"
          search={{ at, tab: "inquiry", q: number }}
          className="link-quiet ml-4 font-semibold"
        >
          Look into it
        </Link>
      </p>
    </Section>
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
            {e.kind}
            {e.over && (CALLS.has(e.kind) ? `, port ${e.over}` : `, ${e.over}`)}
            {e.process && `, by ${e.process}`}
          </span>
          <span className="faint whitespace-nowrap" title={`${e.sure} % sure, by ${e.witnesses.join(", ")}`}>
            {e.quiet && <span className="tag bad mr-1.5">quiet</span>}
            {at ? `heard ${shortDay(e.last_heard)}` : `heard ${agoWords(e.last_heard)}`}
          </span>
        </li>
      ))}
      {edges.length > TOLD && <li className="dim px-3.5 py-1">and {plural(edges.length - TOLD, "other")}</li>}
    </ul>
  );
}
