import { useQuery } from "@tanstack/react-query";
import { Link } from "@tanstack/react-router";
import { useState } from "react";
import { asks } from "../../api/asking";
import type { Schemas } from "../../api/client";
import { both, quoted } from "../../parts/ask/written";
import { shownMoment } from "../../parts/days";
import { count, plural, shortDay } from "../../parts/format";
import { useMay } from "../../parts/me";
import { Empty, Unanswered } from "../../parts/Problem";
import { Table } from "../../parts/table/Table";
import { t, word } from "../../words";
import { RuleDialog } from "./RuleDialog";
import { Verdict } from "./Verdict";

type Product = Schemas["ProductRow"];

const WEEK = 7 * 86_400_000;
const SIFTS: [string, string, (p: Product, now: number) => boolean][] = [
  ["all", t("All"), () => true],
  ["none", t("No ruling yet"), (p) => p.verdict === "none yet"],
  [
    "new",
    t("New this week"),
    (p, now) => Boolean(p.first_seen) && now - Date.parse(p.first_seen ?? "") < WEEK,
  ],
  ["tolerated", t("Tolerated"), (p) => p.verdict === "tolerated"],
  ["barred", t("Barred"), (p) => p.verdict === "barred" || p.mixed],
];

/** Rulings by which one may ask where the software is. */
const WHERE: Record<string, string> = { none: "none yet", tolerated: "tolerated", barred: "barred" };

/** Return the filter for devices that have a product, within a selection. */
export function having(filter: string, product: string): string {
  return both(filter, `software[product = ${quoted(product)}]`);
}

export function Products({ filter, at }: { filter: string; at: string | undefined }) {
  const [find, setFind] = useState("");
  const [sift, setSift] = useState("all");
  const [everything, setEverything] = useState(false);
  const [ruling, setRuling] = useState<{ names: string[]; done: () => void } | null>(null);
  const may = useMay("decide") && !at;
  const roles = everything ? "product,update,driver,run-time,component" : "product";
  const asked = useQuery({
    ...asks("/api/software", { params: { query: { filter, as_of: at, roles } } }),
    placeholderData: (before) => before,
  });
  if (asked.error || !asked.data)
    return <Unanswered asked={asked} what={t("Counting what is installed …")} />;
  const wanted = find.trim().toLowerCase();
  const fits = SIFTS.find(([key]) => key === sift)?.[2] ?? (() => true);
  const now = shownMoment(at);
  const found = asked.data.products
    .filter((p) => fits(p, now) && (!wanted || `${p.name} ${p.publisher}`.toLowerCase().includes(wanted)))
    .sort((a, b) => b.devices - a.devices);
  return (
    <>
      <div className="flex flex-wrap items-center gap-2 py-2.5">
        <input
          type="search"
          className="input input-sm w-56"
          placeholder={t("Find a product or publisher")}
          aria-label={t("Find a product or publisher")}
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
          {t("Updates, drivers, run-times and parts too")}
          {!everything && asked.data.hidden > 0 && (
            <span className="faint">{t("({{hidden}} hidden)", { hidden: count(asked.data.hidden) })}</span>
          )}
        </label>
      </div>
      <p className="dim pb-1.5 text-[13px]" aria-live="polite">
        <b className="text-base-content">{plural(found.length, "product")}</b>{" "}
        {t("on {{devices}} of which software is known.", { devices: plural(asked.data.devices, "device") })}
        {WHERE[sift] && found.length > 0 && (
          <>
            {" "}
            <Link
              to="/estate"
              search={{ at, q: both(filter, `software[ruling = ${quoted(WHERE[sift])}]`) } as never}
              className="link-quiet font-semibold"
            >
              {t("Where it is installed")}
            </Link>
          </>
        )}
      </p>
      {found.length === 0 ? (
        <Empty title={t("No product fits.")}>
          {asked.data.products.length === 0
            ? t(
                "No source lists software on these devices. Widen the question, or sweep them with a credential that may read.",
              )
            : t("Take a narrowing off to see more.")}
        </Empty>
      ) : (
        <div className="sheet overflow-x-auto">
          <Table
            list="products"
            label={t("Products")}
            rows={found}
            rowKey={(p) => p.id}
            acts={
              may
                ? (ticked, untick) => (
                    <button
                      type="button"
                      className="btn btn-primary btn-sm"
                      onClick={() => setRuling({ names: ticked.map((p) => p.name), done: untick })}
                    >
                      {t("Rule on {{ticked}}", { ticked: ticked.length })}
                    </button>
                  )
                : undefined
            }
            columns={[
              {
                key: "product",
                label: t("Product"),
                of: (p) => p.name,
                cell: (p) => (
                  <>
                    <Link
                      to="/software/products/$product"
                      params={{ product: String(p.id) }}
                      search={{ at, q: filter || undefined }}
                      className="link-quiet font-semibold"
                    >
                      {p.name}
                    </Link>
                    {p.role !== "product" && <span className="faint ml-2">{word(p.role)}</span>}
                  </>
                ),
              },
              { key: "publisher", label: t("Publisher"), of: (p) => p.publisher, className: "dim" },
              {
                key: "devices",
                label: t("Devices"),
                of: (p) => p.devices,
                cell: (p) => (
                  <Link to="/estate" search={{ at, q: having(filter, p.name) }} className="link-quiet">
                    {count(p.devices)}
                  </Link>
                ),
                num: true,
              },
              {
                key: "trend",
                label: t("In four weeks"),
                of: (p) => p.devices - p.before,
                cell: (p) => <Trend now={p.devices} before={p.before} />,
                num: true,
              },
              { key: "releases", label: t("Releases"), of: (p) => p.releases, num: true },
              { key: "newest", label: t("Newest"), of: (p) => p.newest, mono: true },
              {
                key: "first_seen",
                label: t("First seen"),
                of: (p) => p.first_seen,
                cell: (p) => (p.first_seen ? shortDay(p.first_seen) : ""),
                className: "whitespace-nowrap",
              },
              {
                key: "ruling",
                label: t("Ruling"),
                of: (p) => word(p.verdict),
                cell: (p) => <Verdict verdict={p.verdict} why={p.why} mixed={p.mixed} />,
              },
            ]}
          />
        </div>
      )}
      {ruling && (
        <RuleDialog
          names={ruling.names}
          close={() => setRuling(null)}
          done={() => {
            ruling.done();
            setRuling(null);
          }}
        />
      )}
    </>
  );
}

function Trend({ now, before }: { now: number; before: number }) {
  if (now === before) return <span className="faint">{t("same")}</span>;
  return (
    <span className={now > before ? "" : "dim"}>
      {now > before ? `+${count(now - before)}` : `−${count(before - now)}`}
    </span>
  );
}
