import { useQuery } from "@tanstack/react-query";
import { Link } from "@tanstack/react-router";
import { useState } from "react";
import { asks } from "../../api/asking";
import type { Schemas } from "../../api/client";
import { both, quoted } from "../../parts/ask/written";
import { amount, capital, count, plural } from "../../parts/format";
import { Unanswered } from "../../parts/Problem";
import { Table } from "../../parts/table/Table";
import type { Search } from "../../search";
import { t } from "../../words";

type Money = Schemas["MoneyOut"];
type Sums = Schemas["Sums"];

interface Asked {
  filter: string;
  at: string | undefined;
}

const BY: [string, string][] = [
  ["department", t("Department")],
  ["place", t("Place")],
  ["kind", t("Kind")],
  ["cost_centre", t("Cost centre")],
  ["person", t("Holder")],
  ["state", t("State")],
  ["supplier", t("Supplier")],
  ["order", t("Order")],
];
export const PARTS: [keyof Sums & string, string, string][] = [
  ["depreciation", t("Written down"), "var(--s1)"],
  ["contracts", t("Contracts"), "var(--s3)"],
  ["licences", t("Licences"), "var(--s5)"],
  ["energy", t("Energy"), "var(--s6)"],
];

/** The money of a selection: what it cost, is worth, and costs a month all in, by what one asks. */
export function MoneyLens({ filter, at, written }: Asked & { written?: string | undefined }) {
  const [by, setBy] = useState("department");
  const [most, setMost] = useState(50);
  const asked = useQuery({
    ...asks("/api/valuation/money", {
      params: { query: { filter, by, as_of: at, limit: most, written } },
    }),
    placeholderData: (before) => before,
  });
  if (asked.error || !asked.data)
    return <Unanswered asked={asked} what={t("Reckoning the money of these …")} />;
  const m = asked.data;
  return (
    <div className="pt-2.5">
      <div className="flex flex-wrap items-baseline gap-x-7 gap-y-1 pb-2.5">
        <Figure
          value={m.whole.cost}
          words={t("{{currency}} paid for {{devices}}", {
            currency: m.currency,
            devices: plural(m.whole.devices, "device"),
          })}
        />
        <Figure value={m.whole.book} words={t("{{currency}} book value", { currency: m.currency })} />
        <Figure value={m.whole.month} words={t("{{currency}} a month, all in", { currency: m.currency })} />
        <span className="flex-1" />
        <label className="flex items-center gap-2 text-[13px]">
          <span className="dim">{t("By")}</span>
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
          {t("Only those of which this is said:")} <b className="font-semibold">{written}</b>{" "}
          <Link
            to="/lifecycle"
            search={(({ written: _, ...rest }: Search) => rest) as never}
            className="link-quiet font-semibold"
          >
            {t("All of them")}
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
        {t("What is in no figure here, {{parts}}", { parts: parts.length + m.apart.length })}
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
  const narrowed = (name: string) => both(filter, name ? `${m.by} = ${quoted(name)}` : `${m.by} = none`);
  return (
    <section className="sheet overflow-x-auto" aria-label={t("By {{by}}", { by: m.by.replace("_", " ") })}>
      <div className="px-3.5 pt-2.5 pb-1">
        <Legend />
      </div>
      <Table
        list="money-groups"
        label={t("Groups")}
        rows={m.groups}
        rowKey={(g) => g.name}
        columns={[
          {
            key: "group",
            label: capital(m.by.replace("_", " ")),
            of: (g) => g.name,
            cell: (g) => (
              <Link
                to={written ? "/lifecycle" : "/estate"}
                search={{ at, q: narrowed(g.name), tab: "money", written } as never}
                className="link-quiet font-semibold"
              >
                {capital(g.name) || t("none known")}
              </Link>
            ),
          },
          {
            key: "devices",
            label: t("Devices"),
            of: (g) => g.devices,
            cell: (g) => count(g.devices),
            num: true,
            mono: true,
          },
          {
            key: "book_value",
            label: t("Book value"),
            of: (g) => g.book,
            cell: (g) => amount(g.book),
            num: true,
            mono: true,
          },
          {
            key: "a_month",
            label: t("A month"),
            of: (g) => g.month,
            cell: (g) => amount(g.month),
            num: true,
            mono: true,
          },
          {
            key: "made_up_of",
            label: t("Made up of"),
            of: (g) => g.book,
            cell: (g) => <PartsBar of={g} most={most} />,
            className: "w-[30%]",
          },
        ]}
      />
    </section>
  );
}

function Dearest({ m, at, more }: { m: Money; at: string | undefined; more: (() => void) | undefined }) {
  return (
    <section className="sheet overflow-x-auto" aria-label={t("Device by device")}>
      <Table
        list="money-devices"
        label={t("Device by device")}
        rows={m.rows}
        rowKey={(r) => r.id}
        columns={[
          {
            key: "device_the_dearest_first",
            label: t("Device, the dearest first"),
            of: (r) => r.name ?? r.number,
            cell: (r) => (
              <>
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
              </>
            ),
          },
          {
            key: "cost",
            label: t("Cost"),
            of: (r) => r.cost,
            cell: (r) => (r.cost ? amount(r.cost) : ""),
            num: true,
            mono: true,
          },
          {
            key: "book_value",
            label: t("Book value"),
            of: (r) => r.book,
            cell: (r) => (r.book ? amount(r.book) : ""),
            num: true,
            mono: true,
          },
          {
            key: "a_month",
            label: t("A month"),
            of: (r) => r.month,
            cell: (r) => amount(r.month),
            num: true,
            mono: true,
          },
          {
            key: "written_down_by",
            label: t("Written down by"),
            of: (r) => r.why,
            cell: (r) => <span className={r.book ? "dim" : "faint"}>{r.why}</span>,
          },
        ]}
      />
      {more && (
        <p className="p-2.5 text-center">
          <button type="button" className="btn btn-sm" onClick={more}>
            {t("More")}
          </button>
        </p>
      )}
    </section>
  );
}
