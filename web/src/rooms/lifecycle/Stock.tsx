import { useQuery } from "@tanstack/react-query";
import { Link } from "@tanstack/react-router";
import { asks } from "../../api/asking";
import { capital, count, day, plural } from "../../parts/format";
import { Unanswered } from "../../parts/Problem";
import { Sheet } from "../../parts/Sheet";
import { Table } from "../../parts/table/Table";
import { t, word } from "../../words";

/** What lies in stock, model by model, and what is still to come. */
export function Stock({ at }: { at: string | undefined }) {
  const asked = useQuery(asks("/api/lifecycle/stock", { params: { query: { as_of: at } } }));
  if (asked.error || !asked.data) return <Unanswered asked={asked} what={t("Looking into the stock …")} />;
  const { lying, coming, total } = asked.data;
  return (
    <div className="grid items-start gap-3 lg:grid-cols-[3fr_2fr]">
      <Sheet id="stock" className="" title={t("In stock")} hint={plural(total, "device")}>
        {lying.length > 0 ? (
          <Table
            list="in-stock"
            label={t("In stock")}
            rows={lying}
            rowKey={(g) => g.filter}
            columns={[
              {
                key: "what",
                label: t("What"),
                of: (g) => [g.kind, g.manufacturer, g.model].filter(Boolean).join(" "),
                cell: (g) => (
                  <>
                    <Link to="/estate" search={{ at, q: g.filter }} className="link-quiet font-semibold">
                      {capital(g.kind || "device")}
                    </Link>{" "}
                    <span className="dim">
                      {g.manufacturer} {g.model}
                    </span>
                  </>
                ),
              },
              { key: "place", label: t("Place"), of: (g) => g.place, className: "dim" },
              {
                key: "in_stock",
                label: t("In stock"),
                of: (g) => g.number,
                cell: (g) => count(g.number),
                num: true,
                mono: true,
              },
              {
                key: "with_a_price",
                label: t("With a price"),
                of: (g) => g.bought,
                cell: (g) => count(g.bought),
                num: true,
                mono: true,
              },
              {
                key: "first_warranty_ends",
                label: t("First warranty ends"),
                of: (g) => g.warranty,
                cell: (g) => (g.warranty ? day(g.warranty) : ""),
                className: "dim whitespace-nowrap",
              },
            ]}
          />
        ) : (
          <p className="dim px-3.5 pb-3 text-[13px]">
            {t("Nothing is in stock. What is received of an order, or taken back, comes here.")}
          </p>
        )}
      </Sheet>
      <Sheet id="coming" className="" title={t("Still to come")} hint={plural(coming.length, "line")}>
        {coming.length > 0 ? (
          <Table
            list="to-come"
            label={t("Still to come")}
            rows={coming}
            rowKey={(c) => `${c.order}${c.kind}${c.model}`}
            columns={[
              {
                key: "what",
                label: t("What"),
                of: (c) => [c.kind, c.manufacturer, c.model].filter(Boolean).join(" "),
                cell: (c) => (
                  <>
                    {capital(word(c.kind))}{" "}
                    <span className="dim">
                      {c.manufacturer} {c.model}
                    </span>
                  </>
                ),
              },
              {
                key: "to_come",
                label: t("To come"),
                of: (c) => c.number,
                cell: (c) => count(c.number),
                num: true,
                mono: true,
              },
              {
                key: "expected",
                label: t("Expected"),
                of: (c) => c.expected,
                cell: (c) => (
                  <>
                    {c.expected ? day(c.expected) : <span className="faint">{t("not said")}</span>}
                    {c.late && <span className="tag warn ml-2">{t("late")}</span>}
                  </>
                ),
                className: "whitespace-nowrap",
              },
              {
                key: "order",
                label: t("Order"),
                of: (c) => c.order,
                mono: true,
                className: "whitespace-nowrap",
              },
            ]}
          />
        ) : (
          <p className="dim px-3.5 pb-3 text-[13px]">{t("Every order has come in full.")}</p>
        )}
      </Sheet>
    </div>
  );
}
