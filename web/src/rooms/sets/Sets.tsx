import { useQuery } from "@tanstack/react-query";
import { Link, useNavigate, useSearch } from "@tanstack/react-router";
import { useState } from "react";
import { asks } from "../../api/asking";
import type { Schemas } from "../../api/client";
import { KINDS, SetForm } from "../../parts/acts/SetForm";
import { inSet } from "../../parts/ask/written";
import { useDial } from "../../parts/dial";
import { EstateNav } from "../../parts/EstateNav";
import { count, plural } from "../../parts/format";
import { useMay } from "../../parts/me";
import { Empty, Problem, Waiting } from "../../parts/Problem";
import { Sheet } from "../../parts/Sheet";
import { Table } from "../../parts/table/Table";
import type { Search } from "../../search";
import { t, word } from "../../words";
import { Phrases } from "./Phrases";

type Kept = Schemas["SetOut"];

/** Kept selections by folder, two of them side by side, and the phrases filters may use. */
export function Sets() {
  const { tab } = useSearch({ strict: false }) as Search;
  const { at } = useDial();
  const navigate = useNavigate();
  const [making, setMaking] = useState(false);
  const may = useMay("keep") && !at;
  const asked = useQuery(asks("/api/sets", { params: { query: { as_of: at } } }));
  const show = (to?: string) =>
    void navigate({ to: "/sets", search: ((before: Search) => ({ at: before.at, tab: to })) as never });
  const folders = [...new Set((asked.data ?? []).map((s) => s.folder))].sort();
  return (
    <div className="mx-auto w-full max-w-[1280px] px-4 pb-10">
      <EstateNav />
      <div className="flex flex-wrap items-center gap-x-4 gap-y-1 pb-2">
        <h1>{tab === "phrases" ? t("Phrases") : t("Sets")}</h1>
        <span className="dim text-[13.5px]">
          {tab === "phrases"
            ? t("named lists and patterns that filters may use")
            : t("kept selections; usable wherever a filter is, as in set “…”")}
        </span>
        <span className="flex-1" />
        <button
          type="button"
          className="btn btn-sm"
          onClick={() => show(tab === "phrases" ? undefined : "phrases")}
        >
          {tab === "phrases" ? t("Sets") : t("Phrases")}
        </button>
        {may && tab !== "phrases" && (
          <button type="button" className="btn btn-primary btn-sm" onClick={() => setMaking(true)}>
            {t("New set")}
          </button>
        )}
      </div>
      {tab === "phrases" ? (
        <Phrases />
      ) : asked.error ? (
        <Problem error={asked.error} />
      ) : !asked.data ? (
        <Waiting what={t("Counting the sets …")} />
      ) : asked.data.length === 0 ? (
        <Empty title={t("No set is kept yet.")}>
          {t("Ask something of the estate, then “Keep as a set”.")}
        </Empty>
      ) : (
        <>
          {folders.map((folder) => (
            <Sheet key={folder} id={`folder-${folder}`} title={folder || t("In no folder")} className="mb-3">
              <Table
                list="sets"
                label={folder || t("In no folder")}
                rows={asked.data.filter((s) => s.folder === folder)}
                rowKey={(s) => s.id}
                columns={[
                  {
                    key: "set",
                    label: t("Set"),
                    of: (s) => s.name,
                    cell: (s) => (
                      <>
                        <Link
                          to="/sets/$set"
                          params={{ set: String(s.id) }}
                          search={{ at }}
                          className="link-quiet font-semibold"
                        >
                          {s.name}
                        </Link>
                        {s.note && <span className="faint block">{s.note}</span>}
                      </>
                    ),
                    className: "w-[26%]",
                  },
                  {
                    key: "kind",
                    label: t("Kind"),
                    of: (s) => word(s.kind),
                    cell: (s) => KINDS[s.kind],
                    className: "dim whitespace-nowrap",
                  },
                  {
                    key: "holds_whatever_answers",
                    label: t("Holds whatever answers"),
                    of: (s) => s.filter,
                    cell: (s) => (s.filter.length > 160 ? `${s.filter.slice(0, 160)}…` : s.filter),
                    mono: true,
                    className: "break-all",
                  },
                  {
                    key: "devices",
                    label: t("Devices"),
                    of: (s) => s.count,
                    cell: (s) => (
                      <Link to="/estate" search={{ at, q: inSet(s.name) }} className="link-quiet">
                        {count(s.count)}
                      </Link>
                    ),
                    num: true,
                  },
                ]}
              />
            </Sheet>
          ))}
          {asked.data.length > 1 && <SideBySide sets={asked.data} at={at} />}
        </>
      )}
      {making && <SetForm held={null} close={() => setMaking(false)} />}
    </div>
  );
}

/** Two sets beside each other: what only one has, what both have. */
function SideBySide({ sets, at }: { sets: Kept[]; at: string | undefined }) {
  const [one, setOne] = useState(sets[0]?.name ?? "");
  const [other, setOther] = useState(sets[1]?.name ?? "");
  const a = inSet(one);
  const b = inSet(other);
  const parts = [
    { key: "one", label: t("Only in {{one}}", { one }), filter: `${a} and not ${b}` },
    { key: "both", label: t("In both"), filter: `${a} and ${b}` },
    { key: "other", label: t("Only in {{other}}", { other }), filter: `${b} and not ${a}` },
  ];
  const pick = (label: string, value: string, set: (v: string) => void) => (
    <select
      className="select select-sm w-56"
      aria-label={label}
      value={value}
      onChange={(e) => set(e.target.value)}
    >
      {sets.map((s) => (
        <option key={s.id}>{s.name}</option>
      ))}
    </select>
  );
  return (
    <Sheet id="side-by-side" title={t("Two side by side")}>
      <div className="flex flex-wrap items-center gap-2 px-3.5 pb-3 text-[13px]">
        {pick(t("One set"), one, setOne)} {t("and")} {pick(t("The other set"), other, setOther)}
      </div>
      <table className="grid-table">
        <tbody>
          {parts.map(({ key, label, filter }) => (
            <Part key={key} label={label} filter={filter} at={at} />
          ))}
        </tbody>
      </table>
    </Sheet>
  );
}

function Part({ label, filter, at }: { label: string; filter: string; at: string | undefined }) {
  const asked = useQuery(asks("/api/assets", { params: { query: { filter, as_of: at, limit: 0 } } }));
  return (
    <tr>
      <td>{label}</td>
      <td className="mono dim">{filter}</td>
      <td className="num">
        <Link to="/estate" search={{ at, q: filter }} className="link-quiet">
          {asked.data ? plural(asked.data.total, "device") : "…"}
        </Link>
      </td>
    </tr>
  );
}
