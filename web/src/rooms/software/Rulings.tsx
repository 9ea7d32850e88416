import { useQuery } from "@tanstack/react-query";
import { Link } from "@tanstack/react-router";
import { useState } from "react";
import { asks } from "../../api/asking";
import { client, ok, type Schemas } from "../../api/client";
import { shownMoment } from "../../parts/days";
import { iso, plural, shortDay } from "../../parts/format";
import { useMay } from "../../parts/me";
import { Unanswered } from "../../parts/Problem";
import { Sheet, useDone } from "../../parts/Sheet";
import { Table } from "../../parts/table/Table";
import { t, word } from "../../words";
import { RuleDialog } from "./RuleDialog";
import { Verdict } from "./Verdict";

type Ruling = Schemas["SoftwareRulingOut"];

const MONTH = 30 * 86_400;
const soon = (r: Ruling, at: string | undefined) =>
  r.verdict === "tolerated" &&
  r.until !== null &&
  r.until !== undefined &&
  r.until - shownMoment(at) / 1000 < MONTH;

/** The rulings that stand, those soon over first; and, on wish, those that ended. */
export function Rulings({ at }: { at: string | undefined }) {
  const [ended, setEnded] = useState(false);
  const [making, setMaking] = useState(false);
  const may = useMay("decide") && !at;
  const done = useDone();
  const asked = useQuery(asks("/api/software/rulings", { params: { query: { as_of: at, ended } } }));
  const barred = useQuery(
    asks("/api/assets", {
      params: { query: { filter: "software[ruling = barred]", as_of: at, limit: 0 } },
    }),
  );
  if (asked.error || !asked.data) return <Unanswered asked={asked} what={t("Reading the rulings …")} />;
  const rows = [...asked.data].sort(
    (a, b) => Number(soon(b, at)) - Number(soon(a, at)) || b.begins - a.begins,
  );
  return (
    <>
      <div className="flex flex-wrap items-center gap-3 py-2.5 text-[13.5px]">
        <Link
          to="/estate"
          search={{ at, q: "software[ruling = barred]" }}
          className="link-quiet font-semibold"
        >
          {t("Barred software is on {{which}}", {
            which: barred.data ? plural(barred.data.total, "device") : "…",
          })}
        </Link>
        <span className="dim">
          {rows.filter((r) => soon(r, at)).length
            ? t("{{tolerations}} over within a month", {
                tolerations: plural(rows.filter((r) => soon(r, at)).length, "toleration"),
              })
            : t("No toleration runs out within a month.")}
        </span>
        <span className="flex-1" />
        <button
          type="button"
          className="btn btn-ghost btn-sm"
          aria-pressed={ended}
          onClick={() => setEnded(!ended)}
        >
          {ended ? t("Those that stand") : t("Those that ended")}
        </button>
        {may && (
          <button type="button" className="btn btn-primary btn-sm" onClick={() => setMaking(true)}>
            {t("New ruling")}
          </button>
        )}
      </div>
      <Sheet id="rulings" className="" title={ended ? t("Rulings that ended") : t("Rulings that stand")}>
        {rows.length === 0 ? (
          <p className="dim px-3.5 pb-3 text-[13px]">
            {ended
              ? t("None has ended yet.")
              : t("None yet. Rule on a product from the list of products, or make one here.")}
          </p>
        ) : (
          <Table
            list="rulings"
            label={ended ? t("Rulings that ended") : t("Rulings that stand")}
            rows={rows}
            rowKey={(r) => r.id}
            columns={[
              {
                key: "on",
                label: t("On"),
                of: (r) => r.name,
                cell: (r) => (
                  <>
                    <b className="font-semibold">{r.subject === "phrase" ? `@${r.name}` : r.name}</b>
                    {r.subject === "publisher" && <span className="faint"> {t("(publisher)")}</span>}
                    {(r.low || r.high) && (
                      <span className="mono ml-2">
                        {t("{{low}} to {{high}}", { low: r.low || t("first"), high: r.high || t("last") })}
                      </span>
                    )}
                  </>
                ),
              },
              {
                key: "for",
                label: t("For"),
                of: (r) => r.department || t("the whole company"),

                className: "dim",
              },
              {
                key: "says",
                label: t("Says"),
                of: (r) => word(r.verdict),
                cell: (r) => <Verdict verdict={r.over ? "barred" : r.verdict} why={r.words} />,
              },
              {
                key: "until",
                label: t("Until"),
                of: (r) => r.until && iso(r.until),
                cell: (r) => (
                  <>
                    {r.until ? shortDay(iso(r.until)) : ""}{" "}
                    {r.over ? (
                      <span className="tag bad">{t("over")}</span>
                    ) : soon(r, at) ? (
                      <span className="tag warn">{t("soon")}</span>
                    ) : null}
                  </>
                ),
                className: "whitespace-nowrap",
              },
              {
                key: "speaks_of",
                label: t("Speaks of"),
                of: (r) => r.products.join(", "),
                cell: (r) =>
                  r.products.length === 0
                    ? t("nothing found yet")
                    : r.products.length < 3
                      ? r.products.join(", ")
                      : plural(r.products.length, "product"),
                className: "dim",
              },
              { key: "why", label: t("Why"), of: (r) => r.why },
              {
                key: "by",
                label: t("By"),
                of: (r) => r.made_by,
                cell: (r) => (
                  <>
                    {r.made_by}, {shortDay(iso(r.begins))}
                    {r.ends ? t(" to {{ends}}", { ends: shortDay(iso(r.ends)) }) : ""}
                  </>
                ),
                className: "dim whitespace-nowrap",
              },
              {
                key: "do",
                label: "",
                cell: (r) =>
                  may &&
                  !ended && (
                    <button
                      type="button"
                      className="link-quiet font-semibold"
                      onClick={() =>
                        done(
                          () =>
                            ok(
                              client.DELETE("/api/software/rulings/{number}", {
                                params: { path: { number: r.id } },
                              }),
                            ),
                          t("It ends now; what it said of the past stays."),
                        )
                      }
                    >
                      {t("Take back")}
                    </button>
                  ),
                className: "text-right",
              },
            ]}
          />
        )}
      </Sheet>
      {making && <RuleDialog names={[]} close={() => setMaking(false)} done={() => setMaking(false)} />}
    </>
  );
}
