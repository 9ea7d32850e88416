import { useQuery } from "@tanstack/react-query";
import { Link, useParams, useSearch } from "@tanstack/react-router";
import { useState } from "react";
import { asks } from "../../api/asking";
import { TaskDialog } from "../../parts/acts/TaskDialog";
import { both, quoted } from "../../parts/ask/written";
import { Bars } from "../../parts/Bars";
import { useDial } from "../../parts/dial";
import { count, plural, shortDay } from "../../parts/format";
import { useMay } from "../../parts/me";
import { Unanswered } from "../../parts/Problem";
import { Sheet } from "../../parts/Sheet";
import { Table } from "../../parts/table/Table";
import type { Search } from "../../search";
import { t, word } from "../../words";
import { Changes } from "./Changes";
import { CorrectDialog } from "./Names";
import { having } from "./Products";
import { RuleDialog } from "./RuleDialog";
import { Verdict } from "./Verdict";

/** One product: which releases are out there and how old, under which names it is listed and why, its year. */
export function ProductPage() {
  const { product } = useParams({ strict: false }) as { product: string };
  const { q = "" } = useSearch({ strict: false }) as Search;
  const { at } = useDial();
  const [ruling, setRuling] = useState(false);
  const [correcting, setCorrecting] = useState<string | null>(null);
  const mayRule = useMay("decide") && !at;
  const [removing, setRemoving] = useState(false);
  const mayRun = useMay("tasks") && !at;
  const mayCorrect = useMay("plan") && !at;
  const asked = useQuery(
    asks("/api/software/products/{number}", {
      params: { path: { number: Number(product) }, query: { filter: q, as_of: at } },
    }),
  );
  if (asked.error || !asked.data) return <Unanswered asked={asked} what={t("Reading the product …")} />;
  const p = asked.data;
  const most = Math.max(1, ...p.releases.map((r) => r.devices));
  const behind = p.releases.filter((r) => !r.newest).reduce((n, r) => n + r.devices, 0);
  return (
    <div className="mx-auto w-full max-w-[1280px] px-4 pb-10">
      <p className="dim pt-3 text-[13px]">
        <Link to="/software" search={{ at, q: q || undefined }} className="link-quiet">
          {t("Software")}
        </Link>{" "}
        {q && (
          <>
            {t("within")} <span className="mono">{q}</span>
          </>
        )}
      </p>
      <div className="flex flex-wrap items-center gap-x-4 gap-y-2 pb-3">
        <h1>{p.name}</h1>
        <span className="dim">{p.publisher}</span>
        <Verdict verdict={p.verdict} />
        <span className="faint text-[13px]">{p.why}</span>
        <span className="flex-1" />
        <Link to="/estate" search={{ at, q: having(q, p.name) }} className="btn btn-sm">
          {plural(p.devices, "device")}
        </Link>
        {mayRule && (
          <button type="button" className="btn btn-primary btn-sm" onClick={() => setRuling(true)}>
            {t("Rule on it")}
          </button>
        )}
        {mayRun && p.devices > 0 && (
          <button type="button" className="btn btn-sm" onClick={() => setRemoving(true)}>
            {t("Uninstall")}
          </button>
        )}
      </div>
      <div className="grid items-start gap-3 lg:grid-cols-2">
        <div>
          <Sheet
            id="releases"
            className=""
            title={t("Which releases are out there")}
            hint={
              behind
                ? t("{{devices}} behind the newest", { devices: plural(behind, "device") })
                : t("all at the newest")
            }
          >
            <Table
              list="product-releases"
              label={t("Which releases are out there")}
              rows={p.releases}
              rowKey={(r) => r.version}
              columns={[
                {
                  key: "release",
                  label: t("Release"),
                  of: (r) => r.version,
                  cell: (r) => (
                    <>
                      {r.version || t("none told")}{" "}
                      {r.newest && <span className="tag ok">{t("newest")}</span>}
                    </>
                  ),
                  mono: true,
                },
                {
                  key: "devices",
                  label: t("Devices"),
                  of: (r) => r.devices,
                  cell: (r) => (
                    <Link
                      to="/estate"
                      search={{
                        at,
                        q: both(
                          q,
                          `software[product = ${quoted(p.name)}${r.version ? ` and version = ${quoted(r.version)}` : ""}]`,
                        ),
                      }}
                      className="link-quiet"
                    >
                      {count(r.devices)}
                    </Link>
                  ),
                  num: true,
                },
                {
                  key: "share",
                  label: t("Share"),
                  of: (r) => r.devices,
                  cell: (r) => (
                    <span
                      className="block h-[10px] rounded-sm"
                      style={{
                        width: `${(100 * r.devices) / most}%`,
                        background: r.newest ? "var(--s2)" : "var(--s3)",
                      }}
                    />
                  ),
                  className: "w-[34%]",
                },
                {
                  key: "first_seen",
                  label: t("First seen"),
                  of: (r) => r.since,
                  cell: (r) => (r.since ? shortDay(r.since) : ""),
                  className: "whitespace-nowrap",
                },
                {
                  key: "ruling",
                  label: t("Ruling"),
                  of: (r) => word(r.verdict),
                  cell: (r) => r.verdict !== p.verdict && <Verdict verdict={r.verdict} />,
                },
              ]}
            />
          </Sheet>
          <Sheet id="year" title={t("Its year")} hint={t("devices, week by week")}>
            <div className="px-3.5 pb-3">
              <Bars
                values={p.year.map((w) => w.devices)}
                width={520}
                label={t("{{devices}} a year ago, {{devices2}} now", {
                  devices: p.year[0]?.devices,
                  devices2: p.devices,
                })}
              />
              <p className="faint flex justify-between pt-1 text-[12px]" style={{ maxWidth: 520 }}>
                <span>{p.year[0] ? `${shortDay(p.year[0].at)}: ${p.year[0].devices}` : ""}</span>
                <span>{t("now: {{devices}}", { devices: p.devices })}</span>
              </p>
            </div>
          </Sheet>
        </div>
        <div>
          <Sheet
            className=""
            id="listed"
            title={t("Listed as")}
            hint={t("the names it goes under, and what each was taken for")}
          >
            <Table
              list="product-listings"
              label={t("Listed as")}
              rows={p.listed}
              rowKey={(e) => e.name}
              columns={[
                { key: "name", label: t("Name"), of: (e) => e.name, className: "break-words" },
                {
                  key: "taken_for",
                  label: t("Taken for"),
                  of: (e) => [e.role, e.edition, e.arch, e.language].filter(Boolean).join(", "),
                  cell: (e) => (
                    <>
                      {[e.role, e.edition, e.arch, e.language].filter(Boolean).join(", ")}
                      {e.why.length > 0 && (
                        <details className="faint text-[12px]">
                          <summary>{t("why")}</summary>
                          {e.why.join("; ")}
                        </details>
                      )}
                    </>
                  ),
                  className: "dim",
                },
                {
                  key: "devices",
                  label: t("Devices"),
                  of: (e) => e.devices,
                  cell: (e) => count(e.devices),
                  num: true,
                },
                {
                  key: "do",
                  label: "",
                  cell: (e) =>
                    mayCorrect && (
                      <button
                        type="button"
                        className="link-quiet font-semibold"
                        onClick={() => setCorrecting(e.name)}
                      >
                        {t("Correct")}
                      </button>
                    ),
                  className: "text-right",
                },
              ]}
            />
          </Sheet>
        </div>
      </div>
      <h2 className="pt-4 text-[15px] font-semibold">{t("What changed")}</h2>
      <Changes filter={q} at={at} product={p.id} />
      {ruling && <RuleDialog names={[p.name]} close={() => setRuling(false)} done={() => setRuling(false)} />}
      {removing && (
        <TaskDialog
          filter={having(q, p.name)}
          product={{ id: p.id, name: p.name }}
          close={() => setRemoving(false)}
        />
      )}
      {correcting !== null && (
        <CorrectDialog field="name" match={correcting} close={() => setCorrecting(null)} />
      )}
    </div>
  );
}
