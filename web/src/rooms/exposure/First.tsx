import { useQuery } from "@tanstack/react-query";
import { Link } from "@tanstack/react-router";
import { useState } from "react";
import { asks } from "../../api/asking";
import type { Schemas } from "../../api/client";
import { both } from "../../parts/ask/written";
import { count, plural, shortDay } from "../../parts/format";
import { GRADES } from "../../parts/Graded";
import { Empty, Unanswered } from "../../parts/Problem";
import { Table } from "../../parts/table/Table";
import { Ebb } from "./Ebb";

type Change = Schemas["ProposedChange"];

const PLACES = [
  "first",
  "second",
  "third",
  "fourth",
  "fifth",
  "sixth",
  "seventh",
  "eighth",
  "ninth",
  "tenth",
];
const share = (part: number, whole: number) => (whole ? Math.round((100 * part) / whole) : 0);
const toOf = (c: Change) => c.target || c.targets.map((t) => `${t.target} (${t.under})`).join(", ");
/** Under which systems, with the release of each where they differ. */
const underOf = (c: Change) =>
  c.targets
    .map((t) => (c.target ? t.under : `${t.under}: ${t.target}`))
    .filter(Boolean)
    .join(", ");
const endedBy = (change: Change) => Object.values(change.ends).reduce((a, b) => a + b, 0);

/** The changes that end what is open, in the order of what each ends; beside them why the chosen one stands there. */
export function First({ filter, at }: { filter: string; at: string | undefined }) {
  const [chosen, setChosen] = useState<string | null>(null);
  const asked = useQuery({
    ...asks("/api/exposure/first", { params: { query: { filter, as_of: at } } }),
    placeholderData: (before) => before,
  });
  if (asked.error || !asked.data) return <Unanswered asked={asked} what="Reckoning what ends the most …" />;
  const { open, stays, changes } = asked.data;
  if (open === 0)
    return (
      <Empty title="Nothing is open here.">
        No advisory that a feed has told of touches these devices. Widen the question, or see under Feeds what
        is read and how fresh it is.
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
          <Ebb open={open} changes={changes} />
          <p className="pt-1 text-right text-[12.5px] font-semibold">
            {stays > 0
              ? `${share(stays, open)} % stays: ${plural(stays, "finding")} for which no document tells a cure`
              : "nothing stays: for each a document tells a cure"}
          </p>
        </div>
        {changes.length > 0 && (
          <div className="sheet mt-3 overflow-x-auto">
            <Table
              list="changes-to-do"
              label="What to do first"
              rows={changes}
              rowKey={(c) => c.key}
              rowClass={(c) => (c.key === changes[picked]?.key ? "bg-info/10" : undefined)}
              columns={[
                {
                  key: "place",
                  label: "Place",
                  of: (c) => changes.indexOf(c) + 1,
                  num: true,
                  className: "faint w-8",
                },
                {
                  key: "change",
                  label: "Change",
                  of: (c) => `Update ${c.product} to ${toOf(c)}`,
                  cell: (c) => (
                    <button
                      type="button"
                      className="text-left"
                      aria-pressed={c.key === changes[picked]?.key}
                      onClick={() => setChosen(c.key)}
                    >
                      Update <b>{c.product}</b> to{" "}
                      {c.target ? <span className="mono">{c.target}</span> : "its cured release"} or later
                      <span className="faint block text-[12px]">{underOf(c)}</span>
                    </button>
                  ),
                },
                {
                  key: "where",
                  label: "Where",
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
                  label: "Ends",
                  of: (c) => endedBy(c),
                  num: true,
                  meaning: "findings, each a device and an advisory, that end with it after those before it",
                },
                {
                  key: "advisories",
                  label: "Advisories",
                  of: (c) => c.advisories,
                  cell: (c) => (
                    <>
                      {c.advisories} {c.used > 0 && <span className="tag bad">{c.used} in use</span>}
                    </>
                  ),
                  className: "whitespace-nowrap",
                },
                {
                  key: "due",
                  label: "Promised",
                  of: (c) => c.due?.slice(0, 10),
                  cell: (c) => (c.due ? `by ${shortDay(c.due)}` : ""),
                  className: "whitespace-nowrap",
                },
                {
                  key: "left",
                  label: "Open after",
                  of: (c) => share(c.left, open),
                  cell: (c) => <Left before={c.left + endedBy(c)} after={c.left} of={open} />,
                  className: "w-24",
                },
              ]}
            />
          </div>
        )}
      </div>
      {changes[picked] && <Why change={changes[picked]} place={picked} open={open} filter={filter} at={at} />}
    </div>
  );
}

/** What is open before and after, on one bar. */
function Left({ before, after, of }: { before: number; after: number; of: number }) {
  const label = `${share(after, of)} % of what is open stays open`;
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

interface WhyProps {
  change: Change;
  place: number;
  open: number;
  filter: string;
  at: string | undefined;
}

function Why({ change, place, open, filter, at }: WhyProps) {
  const ended = endedBy(change);
  const lines: [string, string, React.ReactNode][] = [
    [
      count(change.advisories),
      change.advisories === 1 ? "advisory has to do with it" : "advisories have to do with it",
      <span key="names" className="flex flex-wrap gap-x-2">
        {change.names.map((name) => (
          <Link
            key={name}
            to="/exposure/advisories/$advisory"
            params={{ advisory: name }}
            search={{ at, q: filter || undefined }}
            className="link-quiet mono"
          >
            {name}
          </Link>
        ))}
        {change.advisories > change.names.length && `and ${change.advisories - change.names.length} more`}
      </span>,
    ],
    [
      count(change.devices),
      change.devices === 1 ? "device has a release below it" : "devices have a release below it",
      underOf(change),
    ],
  ];
  if (change.score !== null) lines.push([change.score.toFixed(1), "worst base score, as published", ""]);
  if (change.chance !== null)
    lines.push([
      change.chance.toFixed(2),
      "chance of use within 30 days (EPSS)",
      change.used > 0 ? `${plural(change.used, "advisory", "advisories")} on a list of those in use` : "",
    ]);
  lines.push([
    `${share(ended, open)} %`,
    "of what is open ends",
    GRADES.filter((g) => change.ends[g])
      .map((g) => `${change.ends[g]} ${g}`)
      .join(", ") || "only together with other changes on the same devices",
  ]);
  return (
    <aside className="sheet px-4 py-3" aria-labelledby="why-first">
      <h2 id="why-first" className="dim text-[12px] font-semibold">
        Why {change.product} comes {PLACES[place] ?? `in place ${place + 1}`}
      </h2>
      <dl>
        {lines.map(([figure, words, more]) => (
          <div
            key={words}
            className="grid grid-cols-[64px_1fr] gap-x-3 border-b border-dashed border-base-300 py-2"
          >
            <dt className="text-right text-[15px] font-bold tabular-nums">{figure}</dt>
            <dd className="text-[13px]">
              {words}
              <span className="faint block text-[12px]">{more}</span>
            </dd>
          </div>
        ))}
      </dl>
      <p className="pt-3">
        <Link to="/estate" search={{ at, q: both(filter, change.filter) }} className="btn btn-primary btn-sm">
          See the {plural(change.devices, "device")}
        </Link>
      </p>
    </aside>
  );
}
