import { useQuery } from "@tanstack/react-query";
import { Link } from "@tanstack/react-router";
import { useState } from "react";
import { asks } from "../../api/asking";
import { both } from "../../parts/ask/written";
import { plural, shortDay } from "../../parts/format";
import { Empty, Unanswered } from "../../parts/Problem";
import { Table } from "../../parts/table/Table";
import { t } from "../../words";
import type { Asked } from "./asked";
import { Budget } from "./Budget";
import { ChangePanel } from "./ChangePanel";
import { type Change, endedBy, sentenceOf, share, toOf, underOf, verbOf } from "./changing";
import { Ebb } from "./Ebb";
import { Given } from "./Given";

/** The changes that end what is open, in the order of what each ends; beside them why the chosen one stands there. */
export function First({ filter, at, known }: Asked) {
  const [chosen, setChosen] = useState<string | null>(null);
  const [best, setBest] = useState<string[]>([]);
  const asked = useQuery({
    ...asks("/api/exposure/first", { params: { query: { filter, as_of: at, known } } }),
    placeholderData: (before) => before,
  });
  if (asked.error || !asked.data)
    return <Unanswered asked={asked} what={t("Reckoning what ends the most …")} />;
  const { open, stays, changes } = asked.data;
  if (open === 0)
    return (
      <Empty title={t("Nothing is open here.")}>
        {t(
          "No advisory that a feed has told of touches these devices, and no rule of our own finds any. Widen the question, or see under Feeds what is read and how fresh it is.",
        )}
      </Empty>
    );
  const picked = Math.max(
    0,
    changes.findIndex((c) => c.key === chosen),
  );
  return (
    <div className="grid items-start gap-3 lg:grid-cols-[1fr_340px]">
      <div className="min-w-0">
        <div className="sheet overflow-x-auto px-3.5 py-3">
          <Ebb open={open} changes={changes.filter((c) => c.word !== "refuse")} />
          <p className="pt-1 text-right text-[12.5px] font-semibold">
            {stays > 0
              ? t("{{stays}} % stays: {{findings}} for which no document tells a cure", {
                  stays: share(stays, open),
                  findings: plural(stays, "finding"),
                })
              : t("nothing stays: for each there is something to do")}
          </p>
        </div>
        {changes.length > 0 && (
          <div className="sheet mt-3 overflow-x-auto">
            <Table
              list="changes-to-do"
              label={t("What to do first")}
              rows={changes}
              rowKey={(c) => c.key}
              rowClass={(c) => (c.key === changes[picked]?.key ? "bg-info/10" : undefined)}
              columns={[
                {
                  key: "place",
                  label: t("Rank"),
                  of: (c) => changes.indexOf(c) + 1,
                  num: true,
                  className: "faint w-8",
                },
                {
                  key: "change",
                  label: t("Change"),
                  of: sentenceOf,
                  cell: (c) => (
                    <button
                      type="button"
                      className="text-left"
                      aria-pressed={c.key === changes[picked]?.key}
                      onClick={() => setChosen(c.key)}
                    >
                      <ChangeWords change={c} />
                      {best.includes(c.key) && <span className="tag ok ml-1.5">{t("in the best")}</span>}
                      {c.word === "pin" && <span className="tag note ml-1.5">{t("put first")}</span>}
                      {c.word === "refuse" && <span className="tag ml-1.5">{t("refused")}</span>}
                      <span className="faint block text-[12px]">{c.rule || underOf(c)}</span>
                    </button>
                  ),
                },
                {
                  key: "where",
                  label: t("Where"),
                  of: (c) => c.devices,
                  cell: (c) => (
                    <Link to="/estate" search={{ at, q: both(filter, c.filter) }} className="link-quiet">
                      {plural(c.devices, "device")}
                    </Link>
                  ),
                  className: "whitespace-nowrap",
                },
                {
                  key: "ends",
                  label: t("Ends"),
                  of: endedBy,
                  num: true,
                  meaning: t(
                    "findings, each a device and an advisory or rule, that end with it after those before it",
                  ),
                },
                {
                  key: "advisories",
                  label: t("Advisories"),
                  of: (c) => c.advisories,
                  cell: (c) => (
                    <>
                      {c.advisories || ""}{" "}
                      {c.used > 0 && (
                        <span className="tag bad">{t("{{used}} in use", { used: c.used })}</span>
                      )}
                    </>
                  ),
                  className: "whitespace-nowrap",
                },
                {
                  key: "due",
                  label: t("Promised"),
                  of: (c) => c.due?.slice(0, 10),
                  cell: (c) => (c.due ? t("by {{due}}", { due: shortDay(c.due) }) : ""),
                  className: "whitespace-nowrap",
                },
                {
                  key: "disturbs",
                  label: t("Disturbs"),
                  of: (c) => c.disturbs,
                  cell: (c) => c.disturbs || <span className="faint">{t("not told")}</span>,
                  meaning: t("as the maker's document tells"),
                },
                {
                  key: "left",
                  label: t("Open after"),
                  of: (c) => share(c.left, open),
                  cell: (c) => <Left before={c.left + endedBy(c)} after={c.left} of={open} />,
                  className: "w-24",
                },
              ]}
            />
          </div>
        )}
        <Budget filter={filter} at={at} known={known} most={changes.length} found={setBest} />
        <Given />
      </div>
      {changes[picked] && (
        <ChangePanel
          change={changes[picked]}
          place={picked}
          open={open}
          filter={filter}
          at={at}
          known={known}
        />
      )}
    </div>
  );
}

function ChangeWords({ change }: { change: Change }) {
  return (
    <>
      {verbOf(change)} <b>{change.product}</b>
      {toOf(change) && (
        <>
          {" "}
          {t("to")} {change.target ? <span className="mono">{change.target}</span> : t("its cured release")}{" "}
          {t("or later")}
        </>
      )}
    </>
  );
}

/** What is open before and after, on one bar. */
function Left({ before, after, of }: { before: number; after: number; of: number }) {
  const label = t("{{after}} % of what is open stays open", { after: share(after, of) });
  return (
    <span className="relative block h-2 w-20 overflow-hidden rounded-sm bg-base-300" title={label}>
      <span
        className="absolute inset-y-0 left-0"
        style={{ width: `${share(before, of)}%`, background: "var(--s2)" }}
      />
      <span
        className="absolute inset-y-0 left-0"
        style={{ width: `${share(after, of)}%`, background: "var(--s3)" }}
      />
      <span className="sr-only">{label}</span>
    </span>
  );
}
