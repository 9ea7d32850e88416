import { useQuery } from "@tanstack/react-query";
import { Link } from "@tanstack/react-router";
import { useState } from "react";
import { client, ok, type Schemas } from "../../api/client";
import { narrow, quoted } from "../../parts/ask/narrow";
import { shownMoment } from "../../parts/days";
import { count, plural, shortDay } from "../../parts/format";
import { useMay } from "../../parts/me";
import { Empty, Problem, Waiting } from "../../parts/Problem";
import { RuleDialog } from "./RuleDialog";
import { Verdict } from "./Verdict";

type Product = Schemas["ProductRow"];

const FIRST = 200;
const WEEK = 7 * 86_400_000;
const SORTS: Record<string, (a: Product, b: Product) => number> = {
  Devices: (a, b) => b.devices - a.devices,
  "In four weeks": (a, b) => b.devices - b.before - (a.devices - a.before),
  Product: (a, b) => a.name.localeCompare(b.name),
  Publisher: (a, b) => a.publisher.localeCompare(b.publisher) || a.name.localeCompare(b.name),
  "First seen": (a, b) => (b.first_seen ?? "").localeCompare(a.first_seen ?? ""),
  Releases: (a, b) => b.releases - a.releases,
};
const SIFTS: [string, string, (p: Product, now: number) => boolean][] = [
  ["all", "All", () => true],
  ["none", "No ruling yet", (p) => p.verdict === "none yet"],
  ["new", "New this week", (p, now) => Boolean(p.first_seen) && now - Date.parse(p.first_seen ?? "") < WEEK],
  ["tolerated", "Tolerated", (p) => p.verdict === "tolerated"],
  ["barred", "Barred", (p) => p.verdict === "barred" || p.mixed],
];

/** Rulings by which one may ask where the software is. */
const WHERE: Record<string, string> = { none: "none yet", tolerated: "tolerated", barred: "barred" };

/** Return the filter for devices that have a product, within a selection. */
export function having(filter: string, product: string): string {
  return narrow(filter, `software[product = ${quoted(product)}]`);
}

export function Products({ filter, at }: { filter: string; at: string | undefined }) {
  const [find, setFind] = useState("");
  const [sift, setSift] = useState("all");
  const [everything, setEverything] = useState(false);
  const [sort, setSort] = useState("Devices");
  const [all, setAll] = useState(false);
  const [chosen, setChosen] = useState<Set<string>>(new Set());
  const [ruling, setRuling] = useState(false);
  const may = useMay("decide") && !at;
  const roles = everything ? "product,update,driver,run-time,component" : "product";
  const asked = useQuery({
    queryKey: ["software", filter, at, roles],
    queryFn: () => ok(client.GET("/api/software", { params: { query: { filter, as_of: at, roles } } })),
    placeholderData: (before) => before,
  });
  if (asked.error)
    return (
      <div className="py-4">
        <Problem error={asked.error} />
      </div>
    );
  if (!asked.data) return <Waiting what="Counting what is installed …" />;
  const wanted = find.trim().toLowerCase();
  const fits = SIFTS.find(([key]) => key === sift)?.[2] ?? (() => true);
  const now = shownMoment(at);
  const found = asked.data.products
    .filter((p) => fits(p, now) && (!wanted || `${p.name} ${p.publisher}`.toLowerCase().includes(wanted)))
    .sort(SORTS[sort]);
  const shown = all ? found : found.slice(0, FIRST);
  const toggle = (name: string) => {
    const next = new Set(chosen);
    if (!next.delete(name)) next.add(name);
    setChosen(next);
  };
  return (
    <>
      <div className="flex flex-wrap items-center gap-2 py-2.5">
        <input
          type="search"
          className="input input-sm w-56"
          placeholder="Find a product or publisher"
          aria-label="Find a product or publisher"
          value={find}
          onChange={(e) => setFind(e.target.value)}
        />
        {SIFTS.map(([key, label, of]) => {
          const number = asked.data.products.filter((p) => of(p, now)).length;
          return (
            <button
              key={key}
              type="button"
              aria-pressed={sift === key}
              className={`btn btn-sm ${sift === key ? "btn-primary" : ""}`}
              onClick={() => setSift(key)}
            >
              {label} <span className="font-normal opacity-80">{count(number)}</span>
            </button>
          );
        })}
        <label className="flex items-center gap-2 text-[13px]">
          <input
            type="checkbox"
            className="checkbox checkbox-sm"
            checked={everything}
            onChange={(e) => setEverything(e.target.checked)}
          />
          Updates, drivers, run-times and parts too
          {!everything && asked.data.hidden > 0 && (
            <span className="faint">({count(asked.data.hidden)} hidden)</span>
          )}
        </label>
        <span className="flex-1" />
        {may && (
          <button
            type="button"
            className="btn btn-sm"
            disabled={chosen.size === 0}
            onClick={() => setRuling(true)}
          >
            Rule on {chosen.size || "those ticked"}
          </button>
        )}
      </div>
      <p className="dim pb-1.5 text-[13px]" aria-live="polite">
        <b className="text-base-content">{plural(found.length, "product")}</b> on{" "}
        {plural(asked.data.devices, "device")} of which software is known.
        {WHERE[sift] && found.length > 0 && (
          <>
            {" "}
            <Link
              to="/estate"
              search={{ at, q: narrow(filter, `software[ruling = ${quoted(WHERE[sift])}]`) } as never}
              className="link-quiet font-semibold"
            >
              Where it is installed
            </Link>
          </>
        )}
      </p>
      {found.length === 0 ? (
        <Empty title="No product fits.">
          {asked.data.products.length === 0
            ? "No source lists software on these devices. Widen the question, or sweep them with a credential that may read."
            : "Take a narrowing off to see more."}
        </Empty>
      ) : (
        <div className="sheet overflow-x-auto">
          <table className="grid-table">
            <thead>
              <tr>
                {may && (
                  <th className="w-8">
                    <input
                      type="checkbox"
                      className="checkbox checkbox-sm"
                      aria-label="Tick all that are shown"
                      checked={shown.every((p) => chosen.has(p.name))}
                      onChange={(e) => setChosen(new Set(e.target.checked ? shown.map((p) => p.name) : []))}
                    />
                  </th>
                )}
                {[
                  "Product",
                  "Publisher",
                  "Devices",
                  "In four weeks",
                  "Releases",
                  "Newest",
                  "First seen",
                  "Ruling",
                ].map((head) => (
                  <th
                    key={head}
                    className={["Devices", "In four weeks", "Releases"].includes(head) ? "num" : ""}
                  >
                    {head in SORTS ? (
                      <button type="button" className="font-semibold" onClick={() => setSort(head)}>
                        {head}
                        {sort === head && <span aria-hidden="true"> ▾</span>}
                        {sort === head && <span className="sr-only"> (sorted)</span>}
                      </button>
                    ) : (
                      head
                    )}
                  </th>
                ))}
              </tr>
            </thead>
            <tbody>
              {shown.map((p) => (
                <tr key={p.id}>
                  {may && (
                    <td>
                      <input
                        type="checkbox"
                        className="checkbox checkbox-sm"
                        aria-label={`Tick ${p.name}`}
                        checked={chosen.has(p.name)}
                        onChange={() => toggle(p.name)}
                      />
                    </td>
                  )}
                  <td>
                    <Link
                      to="/software/products/$product"
                      params={{ product: String(p.id) }}
                      search={{ at, q: filter || undefined }}
                      className="link-quiet font-semibold"
                    >
                      {p.name}
                    </Link>
                    {p.role !== "product" && <span className="faint ml-2">{p.role}</span>}
                  </td>
                  <td className="dim">{p.publisher}</td>
                  <td className="num">
                    <Link to="/estate" search={{ at, q: having(filter, p.name) }} className="link-quiet">
                      {count(p.devices)}
                    </Link>
                  </td>
                  <td className="num">
                    <Trend now={p.devices} before={p.before} />
                  </td>
                  <td className="num">{count(p.releases)}</td>
                  <td className="mono">{p.newest}</td>
                  <td className="whitespace-nowrap">{p.first_seen ? shortDay(p.first_seen) : ""}</td>
                  <td>
                    <Verdict verdict={p.verdict} why={p.why} mixed={p.mixed} />
                  </td>
                </tr>
              ))}
            </tbody>
          </table>
          {found.length > shown.length && (
            <button
              type="button"
              className="link-quiet w-full px-3.5 py-2 text-left text-[13px] font-semibold"
              onClick={() => setAll(true)}
            >
              Show all {count(found.length)}
            </button>
          )}
        </div>
      )}
      {ruling && (
        <RuleDialog
          names={[...chosen]}
          close={() => setRuling(false)}
          done={() => {
            setChosen(new Set());
            setRuling(false);
          }}
        />
      )}
    </>
  );
}

function Trend({ now, before }: { now: number; before: number }) {
  if (now === before) return <span className="faint">same</span>;
  return (
    <span className={now > before ? "" : "dim"}>
      {now > before ? `+${count(now - before)}` : `−${count(before - now)}`}
    </span>
  );
}
