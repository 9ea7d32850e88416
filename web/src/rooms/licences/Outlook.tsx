import { useQuery } from "@tanstack/react-query";
import { Link } from "@tanstack/react-router";
import { useState } from "react";
import { asks } from "../../api/asking";
import type { Schemas } from "../../api/client";
import { TextField } from "../../parts/Form";
import { amount, capital, count, day, plural } from "../../parts/format";
import { Problem, Unanswered } from "../../parts/Problem";
import { Sheet } from "../../parts/Sheet";
import { Table } from "../../parts/table/Table";
import { t, word } from "../../words";

/** What licences will cost within a year, and what it takes if people are hired. */
export function Outlook({ at }: { at: string | undefined }) {
  const asked = useQuery(asks("/api/licences/next-year", { params: { query: { as_of: at } } }));
  if (asked.error || !asked.data) return <Unanswered asked={asked} what={t("Looking ahead …")} />;
  const y = asked.data;
  return (
    <div className="grid items-start gap-3 px-4 py-3 lg:grid-cols-[3fr_2fr]">
      <Sheet
        id="next-year"
        className=""
        title={t("Until {{until}}", { until: day(y.until) })}
        hint={`${amount(y.total)} ${y.currency}: ${Object.entries(y.sums)
          .map(([sort, sum]) => `${sort}s ${amount(sum)}`)
          .join(", ")}`}
      >
        {y.apart.map((a) => (
          <p key={a} className="tag warn mx-3.5 mb-2">
            {a}
          </p>
        ))}
        <Table
          list="next-year"
          label={t("Until {{until}}", { until: day(y.until) })}
          rows={y.lines}
          rowKey={(line) => `${line.day}${line.name}${line.sort}`}
          columns={[
            {
              key: "day",
              label: t("Day"),
              of: (line) => line.day,
              cell: (line) => day(line.day),
              className: "whitespace-nowrap",
            },
            {
              key: "what",
              label: t("What"),
              of: (line) => word(line.sort),
              cell: (line) => (
                <span
                  className={`tag ${line.sort === "true-up" ? "bad" : line.sort === "renewal" ? "note" : ""}`}
                >
                  {capital(word(line.sort))}
                </span>
              ),
            },
            {
              key: "for",
              label: t("For"),
              of: (line) => line.name,
              cell: (line) =>
                line.licence ? (
                  <Link
                    to="/licences/$licence"
                    params={{ licence: String(line.licence) }}
                    search={{ at }}
                    className="link-quiet font-semibold"
                  >
                    {line.name}
                  </Link>
                ) : (
                  line.name
                ),
            },
            {
              key: "amount_y_currency",
              label: t("Amount, {{currency}}", { currency: y.currency }),
              of: (line) => line.amount,
              cell: (line) => amount(line.amount),
              num: true,
              mono: true,
            },
          ]}
        />
        {!y.lines.length && <p className="dim px-3.5 pb-3 text-[13px]">{t("Nothing is to be paid.")}</p>}
      </Sheet>
      <Hiring at={at} />
    </div>
  );
}

function Hiring({ at }: { at: string | undefined }) {
  const [v, setValues] = useState({ department: "", number: "12" });
  const [asked, setAsked] = useState<typeof v | null>(null);
  const known = useQuery(asks("/api/strata", { params: { query: { filter: "", bands: "department" } } }));
  const told = useQuery({
    ...asks("/api/licences/hired", {
      params: {
        query: { department: asked?.department ?? "", number: Number(asked?.number), as_of: at },
      },
    }),
    enabled: asked !== null,
    retry: false,
  });
  return (
    <Sheet id="hiring" className="" title={t("If a department hires")}>
      <form
        className="grid items-end gap-x-3 px-3.5 sm:grid-cols-[1fr_90px_auto]"
        onSubmit={(e) => {
          e.preventDefault();
          setAsked(v);
        }}
      >
        <TextField
          label={t("Department")}
          value={v.department}
          set={(department) => setValues({ ...v, department })}
          list={(known.data?.[0]?.parts ?? []).map((p) => p.label)}
          required
        />
        <TextField
          label={t("People")}
          type="number"
          value={v.number}
          set={(number) => setValues({ ...v, number })}
          required
        />
        <button type="submit" className="btn btn-primary mb-3">
          {t("Reckon")}
        </button>
      </form>
      {told.error ? (
        <div className="px-3.5 pb-3">
          <Problem error={told.error} />
        </div>
      ) : null}
      {told.data && <Hired h={told.data} />}
      {!asked && (
        <p className="dim px-3.5 pb-3 text-[13px]">
          {t(
            "Each newcomer has a device with what most of the department's people have; the whole position is reckoned with them.",
          )}
        </p>
      )}
    </Sheet>
  );
}

function Hired({ h }: { h: Schemas["HiredOut"] }) {
  return (
    <>
      <p className="px-3.5 pb-2 text-[13px]">
        {t("{{newcomers}} in {{department}} with {{products}}:", {
          newcomers: plural(h.number, "newcomer"),
          department: h.department,
          products: h.products.join(", ") || t("nothing licensed"),
        })}{" "}
        <b className="font-semibold tabular-nums">{amount(h.cost)}</b>{" "}
        {t("{{currency}} more to buy.", { currency: h.currency })}
      </p>
      {h.balances.length > 0 && (
        <Table
          list="hired"
          label={t("What so many people more would need")}
          rows={h.balances}
          rowKey={(b) => b.name}
          columns={[
            { key: "product", label: t("Product"), of: (b) => b.name },
            {
              key: "needed_more",
              label: t("Needed more"),
              of: (b) => b.more,
              cell: (b) => (
                <>
                  {count(b.more)} {b.unit}
                </>
              ),
              num: true,
              mono: true,
            },
            {
              key: "then_short_more",
              label: t("Then short more"),
              of: (b) => b.short,
              cell: (b) => (b.short ? count(b.short) : ""),
              num: true,
              mono: true,
            },
            {
              key: "cost_h_currency",
              label: t("Cost, {{currency}}", { currency: h.currency }),
              of: (b) => b.cost,
              cell: (b) => (b.cost ? amount(b.cost) : b.short ? t("no price") : ""),
              num: true,
              mono: true,
            },
          ]}
        />
      )}
    </>
  );
}
