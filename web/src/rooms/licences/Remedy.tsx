import { useQuery } from "@tanstack/react-query";
import { Link } from "@tanstack/react-router";
import { useState } from "react";
import { asks } from "../../api/asking";
import type { Schemas } from "../../api/client";
import { TaskDialog } from "../../parts/acts/TaskDialog";
import { amount, capital, count } from "../../parts/format";
import { useMay } from "../../parts/me";
import { Empty, Unanswered } from "../../parts/Problem";
import { t, word } from "../../words";

type Step = Schemas["RemedyStep"];

const TONES: Record<string, string> = { "give up": "note", buy: "warn", move: "", exchange: "", left: "bad" };

/** The cheapest way to put every shortfall right at once, as steps one can take. */
export function Remedy({ at }: { at: string | undefined }) {
  const [free, setFree] = useState(true);
  const asked = useQuery({
    ...asks("/api/licences/remedy", { params: { query: { as_of: at, free } } }),
    placeholderData: (before) => before,
  });
  if (asked.error || !asked.data)
    return <Unanswered asked={asked} what={t("Looking for the cheapest way …")} />;
  const r = asked.data;
  return (
    <div className="px-4 pb-8">
      <div className="flex flex-wrap items-baseline gap-x-5 gap-y-1 py-2.5">
        <p className="text-[13.5px]">
          <b className="text-[17px] font-bold tabular-nums">{amount(r.cost)}</b>{" "}
          {t("{{currency}} puts everything right that can be bought", { currency: r.currency })}
          {r.left > 0 && t("; {{left}} installations no purchase covers", { left: count(r.left) })}.
        </p>
        <span className="flex-1" />
        <label className="flex items-center gap-2 text-[13px]">
          <input
            type="checkbox"
            className="checkbox checkbox-sm"
            checked={free}
            onChange={(e) => setFree(e.target.checked)}
          />
          {t("Idle ones may be given up")}
        </label>
      </div>
      {r.steps.length === 0 ? (
        <Empty title={t("There is nothing to do.")}>{t("Right covers need everywhere.")}</Empty>
      ) : (
        <ol className="space-y-2">
          {r.steps.map((s, n) => (
            <RemedyStep key={s.text} s={s} n={n + 1} at={at} currency={r.currency} />
          ))}
        </ol>
      )}
      {r.unpriced.length > 0 && (
        <p className="dim pt-3 text-[13px]">
          {t("No price is known of {{unpriced}}.", { unpriced: r.unpriced.join(", ") })}
        </p>
      )}
      <p className="faint pt-3 text-[12.5px]">
        {t(
          "Proved to be the cheapest: every mixture of purchases over all licences is weighed, a suite against its parts among them.",
        )}
      </p>
    </div>
  );
}

function RemedyStep({
  s,
  n,
  at,
  currency,
}: {
  s: Step;
  n: number;
  at: string | undefined;
  currency: string;
}) {
  const may = useMay("tasks") && !at;
  const [running, setRunning] = useState(false);
  const filter = s.assets.length
    ? `number in (${s.assets.map((a) => `A-${String(a).padStart(5, "0")}`).join(", ")})`
    : "";
  return (
    <li className="sheet flex flex-wrap items-baseline gap-x-3 gap-y-1 px-3.5 py-2.5">
      <span className="mono faint w-5">{n}</span>
      <span className={`tag ${TONES[s.sort] ?? ""}`}>{capital(word(s.sort))}</span>
      <span className="min-w-0 flex-1">
        <b className="font-semibold">{s.text}</b>
        <span className="dim block text-[12.5px]">{s.why}</span>
      </span>
      {s.cost && (
        <b className="mono">
          {amount(s.cost)} {currency}
        </b>
      )}
      {s.licence && (
        <Link
          to="/licences/$licence"
          params={{ licence: String(s.licence) }}
          search={{ at }}
          className="link-quiet text-[13px] font-semibold"
        >
          {t("The licence")}
        </Link>
      )}
      {filter && (
        <Link to="/estate" search={{ at, q: filter }} className="link-quiet text-[13px] font-semibold">
          {t("These devices")}
        </Link>
      )}
      {s.sort === "give up" && may && (
        <button type="button" className="btn btn-sm" onClick={() => setRunning(true)}>
          {t("Uninstall it there")}
        </button>
      )}
      {running && <TaskDialog filter={filter} close={() => setRunning(false)} />}
    </li>
  );
}
