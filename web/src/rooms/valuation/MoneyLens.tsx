import { useQuery } from "@tanstack/react-query";
import { Link } from "@tanstack/react-router";
import { useState } from "react";
import { client, ok, type Schemas } from "../../api/client";
import { quoted } from "../../parts/ask/narrow";
import { amount, capital, count, plural } from "../../parts/format";
import { Problem, Waiting } from "../../parts/Problem";
import type { Search } from "../../search";

type Money = Schemas["MoneyOut"];
type Sums = Schemas["Sums"];

interface Asked {
  filter: string;
  at: string | undefined;
}

const BY: [string, string][] = [
  ["department", "Department"],
  ["place", "Place"],
  ["kind", "Kind"],
  ["cost_centre", "Cost centre"],
  ["person", "Holder"],
  ["state", "State"],
  ["supplier", "Supplier"],
  ["order", "Order"],
];
export const PARTS: [keyof Sums & string, string, string][] = [
  ["depreciation", "Written down", "var(--s1)"],
  ["contracts", "Contracts", "var(--s3)"],
  ["licences", "Licences", "var(--s5)"],
  ["energy", "Energy", "var(--s6)"],
];

/** The money of a selection: what it cost, is worth, and costs a month all in, by what one asks. */
export function MoneyLens({ filter, at, written }: Asked & { written?: string | undefined }) {
  const [by, setBy] = useState("department");
  const [most, setMost] = useState(50);
  const asked = useQuery({
    queryKey: ["valuation", "money", filter, by, at, most, written],
    queryFn: () =>
      ok(
        client.GET("/api/valuation/money", {
          params: { query: { filter, by, as_of: at, limit: most, written } },
        }),
      ),
    placeholderData: (before) => before,
  });
  if (asked.error) return <Problem error={asked.error} />;
  if (!asked.data) return <Waiting what="Reckoning the money of these …" />;
  const m = asked.data;
  return (
    <div className="pt-2.5">
      <div className="flex flex-wrap items-baseline gap-x-7 gap-y-1 pb-2.5">
        <Figure value={m.whole.cost} words={`${m.currency} paid for ${plural(m.whole.devices, "device")}`} />
        <Figure value={m.whole.book} words={`${m.currency} book value`} />
        <Figure value={m.whole.month} words={`${m.currency} a month, all in`} />
        <span className="flex-1" />
        <label className="flex items-center gap-2 text-[13px]">
          <span className="dim">By</span>
          <select className="select select-sm w-36" value={by} onChange={(e) => setBy(e.target.value)}>
            {BY.map(([key, label]) => (
              <option key={key} value={key}>
                {label}
              </option>
            ))}
          </select>
        </label>
      </div>
      {written && (
        <p className="pb-2.5 text-[13px]">
          Only those of which this is said: <b className="font-semibold">{written}</b>{" "}
          <Link
            to="/lifecycle"
            search={(({ written: _, ...rest }: Search) => rest) as never}
            className="link-quiet font-semibold"
          >
            All of them
          </Link>
        </p>
      )}
      <Apart m={m} filter={filter} at={at} />
      <div className="grid items-start gap-3 lg:grid-cols-[3fr_4fr]">
        <Groups m={m} filter={filter} at={at} written={written} />
        <Dearest m={m} at={at} more={m.whole.devices > most ? () => setMost(most + 200) : undefined} />
      </div>
    </div>
  );
}

function Figure({ value, words }: { value: string; words: string }) {
  return (
    <p>
      <b className="text-[17px] font-bold tabular-nums">{amount(value.split(".")[0] ?? value)}</b>{" "}
      <span className="dim text-[13px]">{words}</span>
    </p>
  );
}

/** Why some devices have no book value, and what falls on no device. */
function Apart({ m, filter, at }: Asked & { m: Money }) {
  const parts = [
    ...m.without_rate,
    ...m.loose.map((l) => `${l.name}: ${amount(l.month)} a month falls on no device`),
  ];
  if (!parts.length && !m.apart.length) return null;
  return (
    <details className="pb-2.5 text-[12.5px]">
      <summary className="dim cursor-pointer">
        What is in no figure here, {parts.length + m.apart.length}
      </summary>
      <ul className="pt-1 pl-4">
        {m.apart.map((a) => (
          <li key={a.why}>
            <Link
              to="/lifecycle"
              search={{ at, tab: "money", q: filter || undefined, written: a.why } as never}
              className="link-quiet"
            >
              {plural(a.devices, "device")}: {a.why}
            </Link>
          </li>
        ))}
        {parts.map((p) => (
          <li key={p}>{p}</li>
        ))}
      </ul>
    </details>
  );
}

/** What makes up a month, part by part. */
export function PartsBar({ of, most }: { of: Sums | Schemas["MoneyRow"]; most: number }) {
  return (
    <div
      className="flex h-3 min-w-24 overflow-hidden rounded-[2px]"
      role="img"
      aria-label={PARTS.map(([key, label]) => `${label} ${of[key as "energy"]}`).join(", ")}
    >
      {PARTS.map(([key, label, colour]) => {
        const share = (100 * Number(of[key as "energy"])) / most;
        return share > 0 ? (
          <i
            key={key}
            title={`${label}: ${amount(String(of[key as "energy"]))}`}
            style={{ width: `${share}%`, background: colour }}
          />
        ) : null;
      })}
    </div>
  );
}

function Legend() {
  return (
    <span className="flex flex-wrap gap-3 text-[12px]">
      {PARTS.map(([key, label, colour]) => (
        <span key={key} className="flex items-center gap-1">
          <i className="h-2.5 w-2.5 rounded-[2px]" style={{ background: colour }} />
          {label}
        </span>
      ))}
    </span>
  );
}

function Groups({ m, filter, at, written }: Asked & { m: Money; written: string | undefined }) {
  const most = Math.max(1, ...m.groups.map((g) => Number(g.month)));
  const narrowed = (name: string) =>
    [filter && `(${filter})`, name ? `${m.by} = ${quoted(name)}` : `${m.by} = none`]
      .filter(Boolean)
      .join(" and ");
  return (
    <section className="sheet overflow-x-auto" aria-label={`By ${m.by.replace("_", " ")}`}>
      <div className="px-3.5 pt-2.5 pb-1">
        <Legend />
      </div>
      <table className="grid-table [&_td]:align-middle">
        <thead>
          <tr>
            <th>{capital(m.by.replace("_", " "))}</th>
            <th className="num">Devices</th>
            <th className="num">Book value</th>
            <th className="num">A month</th>
            <th>Made up of</th>
          </tr>
        </thead>
        <tbody>
          {m.groups.slice(0, 40).map((g) => (
            <tr key={g.name}>
              <td>
                <Link
                  to={written ? "/lifecycle" : "/estate"}
                  search={{ at, q: narrowed(g.name), tab: "money", written } as never}
                  className="link-quiet font-semibold"
                >
                  {capital(g.name) || "none known"}
                </Link>
              </td>
              <td className="num mono">{count(g.devices)}</td>
              <td className="num mono">{amount(g.book)}</td>
              <td className="num mono">{amount(g.month)}</td>
              <td className="w-[30%]">
                <PartsBar of={g} most={most} />
              </td>
            </tr>
          ))}
        </tbody>
      </table>
    </section>
  );
}

function Dearest({ m, at, more }: { m: Money; at: string | undefined; more: (() => void) | undefined }) {
  return (
    <section className="sheet overflow-x-auto" aria-label="Device by device">
      <table className="grid-table">
        <thead>
          <tr>
            <th>Device, the dearest first</th>
            <th className="num">Cost</th>
            <th className="num">Book value</th>
            <th className="num">A month</th>
            <th>Written down by</th>
          </tr>
        </thead>
        <tbody>
          {m.rows.map((r) => (
            <tr key={r.id}>
              <td>
                <Link
                  to="/assets/$asset"
                  params={{ asset: String(r.id) }}
                  search={{ at }}
                  hash="money"
                  className="link-quiet mono font-semibold"
                >
                  {r.name ?? r.number}
                </Link>{" "}
                <span className="dim">{r.kind}</span>
              </td>
              <td className="num mono">{r.cost ? amount(r.cost) : ""}</td>
              <td className="num mono">{r.book ? amount(r.book) : ""}</td>
              <td className="num mono">{amount(r.month)}</td>
              <td className={r.book ? "dim" : "faint"}>{r.why}</td>
            </tr>
          ))}
        </tbody>
      </table>
      {more && (
        <p className="p-2.5 text-center">
          <button type="button" className="btn btn-sm" onClick={more}>
            More
          </button>
        </p>
      )}
    </section>
  );
}
