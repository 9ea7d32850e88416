import { useQuery } from "@tanstack/react-query";
import { Link, useParams, useSearch } from "@tanstack/react-router";
import { useState } from "react";
import { asks } from "../../api/asking";
import { client, ok, type Schemas } from "../../api/client";
import { both, quoted } from "../../parts/ask/written";
import { shownMoment } from "../../parts/days";
import { useDial } from "../../parts/dial";
import { ago, day, plural, shortDay } from "../../parts/format";
import { Grade, InUse, StatusTag } from "../../parts/Graded";
import { useMay } from "../../parts/me";
import { Unanswered } from "../../parts/Problem";
import { Sheet, useDone } from "../../parts/Sheet";
import { Table } from "../../parts/table/Table";
import type { Search } from "../../search";
import { t, word } from "../../words";
import { Accept } from "./Accept";
import { finding } from "./asked";
import { Life } from "./Life";
import { NotHere } from "./NotHere";

type Page = Schemas["AdvisoryPage"];

/** One advisory: how each release here stands to it and why, its life here, how bad it is, who says so. */
export function AdvisoryPage() {
  const { advisory } = useParams({ strict: false }) as { advisory: string };
  const { q = "", known: by } = useSearch({ strict: false }) as Search;
  const { at } = useDial();
  const known = at ? by : undefined;
  const [accepting, setAccepting] = useState(false);
  const may = useMay("plan") && !at;
  const asked = useQuery(
    asks("/api/exposure/advisories/{name}", {
      params: { path: { name: advisory }, query: { filter: q, as_of: at, known } },
    }),
  );
  if (asked.error || !asked.data) return <Unanswered asked={asked} what={t("Reading the advisory …")} />;
  const page = asked.data;
  const due = page.graded.map((g) => g.due).find(Boolean) ?? null;
  const open = finding(`id = ${quoted(page.name)} and status = affected and accepted = no`, known);
  return (
    <div className="mx-auto w-full max-w-[1400px] px-4 pb-10">
      <p className="dim pt-3 text-[13px]">
        <Link
          to="/exposure"
          search={{ at, known, q: q || undefined, tab: "advisories" }}
          className="link-quiet"
        >
          {t("Exposure")}
        </Link>{" "}
        {q && (
          <>
            {t("within")} <span className="mono">{q}</span>
          </>
        )}
        {known && t(" as is now known of that day")}
      </p>
      <div className="grid items-center gap-x-5 gap-y-2 pb-3 lg:grid-cols-[430px_1fr]">
        <div className="sheet flex items-start justify-between gap-3 px-3.5 py-2.5">
          <div>
            <h1 className="mono !text-[15px]">{page.name}</h1>
            {page.aliases.length > 0 && <p className="dim mono text-[12.5px]">{page.aliases.join(", ")}</p>}
            <p className="dim pt-0.5 text-[13px]">{page.title}</p>
          </div>
          <p className="text-right text-[12.5px]">
            <InUse since={page.used} />
            <span className="dim mono block whitespace-nowrap">
              {page.published && shortDay(page.published)}
            </span>
          </p>
        </div>
        <p>
          {page.text !== page.title && `${page.text} `}
          <b>
            {page.devices > 0 ? (
              <>
                <Link to="/estate" search={{ at, q: both(q, open) }} className="link-quiet">
                  {plural(page.devices, "device")}
                </Link>{" "}
                {t("{{which}} open to it.", { which: page.devices === 1 ? t("is") : t("are") })}
              </>
            ) : (
              t("No device is open to it.")
            )}
          </b>
          {page.unsure > 0 &&
            t(" Of {{devices}} it is under investigation.", { devices: plural(page.unsure, "more device") })}
        </p>
      </div>
      <div className="grid items-start gap-3 lg:grid-cols-[1fr_340px]">
        <div className="min-w-0">
          {page.life.steps.length > 0 && (
            <div className="sheet overflow-x-auto px-3.5 py-3">
              <Life page={page} now={shownMoment(at)} due={due} />
            </div>
          )}
          <Standings page={page} q={q} at={at} />
        </div>
        <aside className="sheet px-4 py-3" aria-label={t("How bad, and who says so")}>
          <HowBad page={page} />
          <Cures page={page} />
          <Witnesses page={page} />
          {may && page.devices > 0 && (
            <p className="pt-3">
              <button type="button" className="btn btn-sm" onClick={() => setAccepting(true)}>
                {t("Accept for a while")}
              </button>
            </p>
          )}
        </aside>
      </div>
      {accepting && <Accept advisory={page.name} filter={q} close={() => setAccepting(false)} />}
    </div>
  );
}

function Standings({ page, q, at }: { page: Page; q: string; at: string | undefined }) {
  const [meant, setMeant] = useState<Page["standings"][number] | null>(null);
  const may = useMay("decide") && !at;
  if (page.standings.length === 0)
    return (
      <p className="sheet dim px-4 py-6 text-center">{t("Nothing that it speaks of is on these devices.")}</p>
    );
  return (
    <Sheet id="standings" title={t("What is here")} hint={t("each release, and how it stands")}>
      <Table
        list="advisory-standings"
        label={t("What is here")}
        rows={page.standings}
        rowKey={(s) => `${s.release} ${s.version} ${s.under} ${s.status}`}
        columns={[
          {
            key: "release",
            label: t("Release"),
            of: (s) => `${s.release} ${s.version}`.trim(),
            mono: true,
            className: "break-words",
          },
          { key: "under", label: t("Under"), of: (s) => s.under, className: "whitespace-nowrap" },
          {
            key: "where",
            label: t("Where"),
            of: (s) => s.devices,
            cell: (s) =>
              s.filter ? (
                <Link
                  to="/estate"
                  search={{ at, q: both(q, s.filter) }}
                  className="link-quiet whitespace-nowrap"
                >
                  {plural(s.devices, "device")}
                </Link>
              ) : (
                plural(s.devices, "device")
              ),
          },
          {
            key: "status",
            label: t("Status"),
            of: (s) => word(s.status),
            cell: (s) => <StatusTag status={s.status} />,
          },
          {
            key: "because",
            label: t("Because"),
            of: (s) => s.because,
            cell: (s) => (
              <>
                {s.because}
                {s.sure < 100 && <span className="faint"> {t("· {{sure}} % sure", { sure: s.sure })}</span>}
                {s.against.length > 0 && (
                  <details className="text-[12.5px]">
                    <summary className="text-accent">
                      {t("{{say}} otherwise", {
                        say: plural(s.against.length, "document says", "documents say"),
                      })}
                    </summary>
                    <ul>
                      {s.against.map((a) => (
                        <li key={a.because}>
                          <StatusTag status={a.status} /> {a.because}
                        </li>
                      ))}
                    </ul>
                  </details>
                )}
              </>
            ),
          },
          {
            key: "do",
            label: "",
            cell: (s) =>
              may &&
              (s.status === "affected" || s.status === "under investigation") && (
                <button
                  type="button"
                  className="link-quiet font-semibold whitespace-nowrap"
                  onClick={() => setMeant(s)}
                >
                  {t("Not affected")}
                </button>
              ),
            className: "text-right",
          },
        ]}
      />
      {meant && <NotHere advisory={page.name} standing={meant} close={() => setMeant(null)} />}
    </Sheet>
  );
}

function Head({ children }: { children: string }) {
  return <h2 className="dim pt-3 pb-1 text-[12px] font-semibold ">{children}</h2>;
}

function HowBad({ page }: { page: Page }) {
  return (
    <>
      <Head>{t("How bad, and why")}</Head>
      {page.scores.length === 0 && <p className="faint text-[13px]">{t("No document gives it a score.")}</p>}
      {page.scores.map((s) => (
        <div key={`${s.vector}${s.by}`} className="py-0.5">
          <p className="grid grid-cols-[1fr_90px_34px] items-center gap-2 text-[13px]">
            <span>
              {t("base, CVSS {{version}}", { version: s.version })} <span className="faint">{s.by}</span>
            </span>
            <span className="h-2 overflow-hidden rounded-sm bg-base-300">
              <span className="block h-full bg-error" style={{ width: `${s.base * 10}%` }} />
            </span>
            <b className="text-right tabular-nums">{s.base.toFixed(1)}</b>
          </p>
          <p className="mono faint text-[11px] break-all">{s.vector}</p>
        </div>
      ))}
      <Head>{t("In use?")}</Head>
      <p className="text-[13px]">
        {page.used
          ? t("On a list of those in use since {{used}}. ", { used: day(page.used) })
          : t("On no list of those in use. ")}
        {page.chance !== null &&
          t("Chance within 30 days {{chance}}, higher than {{it}} of 100.", {
            chance: page.chance.toFixed(2),
            it: Math.round(100 * (page.percentile ?? 0)),
          })}
      </p>
      {page.action && <p className="dim text-[13px]">{page.action}</p>}
      {page.graded.map((g) => (
        <div key={g.grade + g.devices}>
          <Head>{t("What it asks for on {{devices}}", { devices: plural(g.devices, "device") })}</Head>
          <p className="text-[13px]">
            <Grade grade={g.grade} />{" "}
            {g.due && <span className="dim">{t("promised by {{due}}", { due: day(g.due) })}</span>}
          </p>
          {g.here !== null && g.threat !== null && (
            <p className="pt-0.5 text-[12.5px]" title={g.vector}>
              <b>{g.threat.toFixed(1)}</b> <span className="dim">{t("with what is known of its use,")}</span>{" "}
              <b>{g.here.toFixed(1)}</b> <span className="dim">{t("where it stands")}</span>
            </p>
          )}
          <ol className="pt-1 text-[12.5px]">
            {g.steps.map((s) => (
              <li key={s.asks} className="py-0.5">
                <span className="dim">{s.asks}</span> <b>{s.answer}</b>{" "}
                <span className="faint">{s.because}</span>
              </li>
            ))}
          </ol>
        </div>
      ))}
    </>
  );
}

function Cures({ page }: { page: Page }) {
  const cures = [
    ...new Set(page.standings.filter((s) => s.status === "affected").flatMap((s) => s.fixed_in)),
  ];
  return (
    <>
      <Head>{t("What ends it")}</Head>
      {cures.length > 0 ? (
        <p className="text-[13px]">
          {t("Update to")}{" "}
          {cures.map((c, n) => (
            <span key={c}>
              {n > 0 && t(" or ")}
              <b className="mono">{c}</b>
            </span>
          ))}
          {t(", or later.")}
        </p>
      ) : (
        <p className="faint text-[13px]">
          {t("No document names a release that carries the cure for what is here.")}
        </p>
      )}
      {page.remedies.map((r) => (
        <p key={r.text} className="pt-1 text-[13px]">
          <span className="dim">{r.sort.replaceAll("_", " ")}:</span> {r.text}
        </p>
      ))}
      {page.links.map((link) => (
        <p key={link} className="mono faint text-[11.5px] break-all">
          {link}
        </p>
      ))}
    </>
  );
}

function Witnesses({ page }: { page: Page }) {
  const may = useMay("decide");
  const done = useDone();
  const takeBack = (number: number) =>
    done(
      () => ok(client.DELETE("/api/exposure/own-words/{number}", { params: { path: { number } } })),
      t("The word is taken back: what others say counts again."),
    );
  return (
    <>
      <Head>{t("Where this comes from")}</Head>
      <ul className="text-[13px]">
        {page.witnesses.map((w) => (
          <li
            key={`${w.format}${w.name}${w.came}`}
            className={`py-0.5 ${w.ended ? "faint line-through" : ""}`}
          >
            {w.format} <span className="mono">{w.name}</span>{" "}
            <span className="dim">
              {[
                w.by,
                t("by the feed “{{feed}}”", { feed: w.feed }),
                t("{{came}} ago", { came: ago(w.came) }).replace("just now ago", "just now"),
              ]
                .filter(Boolean)
                .join(", ")}
            </span>
            {w.withdrawn && <span className="tag ml-1">{t("withdrawn")}</span>}
            {w.word === "own" && !w.ended && may && (
              <button
                type="button"
                className="link-quiet ml-2 font-semibold"
                onClick={() => void takeBack(w.number)}
              >
                {t("Take back")}
              </button>
            )}
          </li>
        ))}
      </ul>
    </>
  );
}
