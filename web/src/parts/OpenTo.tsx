import { useQuery } from "@tanstack/react-query";
import { Link } from "@tanstack/react-router";
import { asks } from "../api/asking";
import { t } from "../words";
import { quoted } from "./ask/written";
import { shortDay } from "./format";
import { Grade, InUse } from "./Graded";
import { Unanswered } from "./Problem";

/** What a device is open to, and which rules of our own it fits, the gravest first, and since when. */
export function OpenTo({ number, at }: { number: string; at?: string | undefined }) {
  const query = { filter: `number = ${quoted(number)} and standing != none`, as_of: at };
  const told = useQuery(asks("/api/exposure/advisories", { params: { query } }));
  const own = useQuery(asks("/api/exposure/own", { params: { query } }));
  if (!told.data || !own.data)
    return <Unanswered asked={told.error ? told : own} what={t("Seeing what it is open to …")} />;
  const rules = own.data.rules.filter((r) => r.devices > 0);
  if (told.data.length + rules.length === 0)
    return (
      <p className="dim px-3.5 pb-3 text-[13px]">
        {t("Nothing that a feed has told of, and nothing our own rules find.")}
      </p>
    );
  return (
    <ul className="pb-2 text-[13px]">
      {told.data.map((a) => (
        <li key={a.name} className="flex flex-wrap items-baseline gap-x-2 px-3.5 py-1">
          <Link
            to="/exposure/advisories/$advisory"
            params={{ advisory: a.name }}
            search={{ at }}
            className="link-quiet mono font-semibold"
          >
            {a.name}
          </Link>
          <Grade grade={a.grade} />
          <InUse since={a.used} />
          <span className="dim min-w-0 flex-1">{a.title}</span>
          <span className="faint whitespace-nowrap">
            {a.unsure > 0 ? t("under investigation") : t("since {{since}}", { since: shortDay(a.since) })}
            {a.late > 0 && t(", late")}
          </span>
        </li>
      ))}
      {rules.map((r) => (
        <li key={r.id} className="flex flex-wrap items-baseline gap-x-2 px-3.5 py-1">
          <Link to="/exposure" search={{ at, tab: "own" }} className="link-quiet font-semibold">
            {r.name}
          </Link>
          <Grade grade={r.grade} />
          <span className="dim min-w-0 flex-1">{r.todo}</span>
          <span className="faint whitespace-nowrap">
            {r.since && t("since {{since}}", { since: shortDay(r.since) })}
            {r.late > 0 && t(", late")}
          </span>
        </li>
      ))}
    </ul>
  );
}
