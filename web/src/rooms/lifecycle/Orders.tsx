import { useQuery } from "@tanstack/react-query";
import { Link } from "@tanstack/react-router";
import { useState } from "react";
import { asks } from "../../api/asking";
import { client, ok, type Schemas } from "../../api/client";
import { LabelDialog } from "../../parts/acts/LabelDialog";
import { quoted } from "../../parts/ask/written";
import { amount, capital, count, day } from "../../parts/format";
import { useMay } from "../../parts/me";
import { Empty, Unanswered } from "../../parts/Problem";
import { useDone } from "../../parts/Sheet";
import { Table } from "../../parts/table/Table";
import { t, word } from "../../words";
import { OrderForm, ReceiveForm } from "./OrderForms";

type Order = Schemas["OrderOut"];
type Line = Schemas["OrderLineOut"];

/** Orders with how much of each line has come; what comes is received by its serial numbers. */
export function Orders({ at }: { at: string | undefined }) {
  const may = useMay("plan") && !at;
  const done = useDone("lifecycle");
  const mayLabel = useMay("decide") && !at;
  const [entering, setEntering] = useState(false);
  const [labelling, setLabelling] = useState("");
  const [receiving, setReceiving] = useState<{ order: Order; line: Line } | null>(null);
  const asked = useQuery(asks("/api/lifecycle/orders"));
  if (asked.error || !asked.data) return <Unanswered asked={asked} what={t("Reading orders …")} />;
  return (
    <>
      {may && (
        <div className="flex justify-end pb-2.5">
          <button type="button" className="btn btn-sm" onClick={() => setEntering(true)}>
            {t("Enter an order")}
          </button>
        </div>
      )}
      {asked.data.length === 0 && (
        <Empty title={t("No order is entered yet.")}>
          {t(
            "What comes of an order is received by its serial numbers and becomes assets, with price and warranty.",
          )}
        </Empty>
      )}
      <div className="space-y-3">
        {asked.data.map((o) => (
          <section
            key={o.id}
            className="sheet overflow-x-auto"
            aria-label={t("Order {{number}}", { number: o.number })}
          >
            <div className="flex flex-wrap items-center gap-x-3 px-3.5 py-2 text-[13px]">
              <h2 className="mono text-[14.5px] font-semibold">{o.number}</h2>
              <span>{o.supplier}</span>
              <span className="dim">{t("ordered {{day}}", { day: day(o.day) })}</span>
              {o.expected && o.open && (
                <span className="dim">{t("expected {{expected}}", { expected: day(o.expected) })}</span>
              )}
              {o.late && <span className="tag warn">{t("late")}</span>}
              {!o.open && <span className="tag ok">{t("all received")}</span>}
              <span className="flex-1" />
              <Link
                to="/estate"
                search={{ at, q: `order = ${quoted(o.number)}` }}
                className="link-quiet font-semibold"
              >
                {t("Its assets")}
              </Link>
              {mayLabel && o.lines.some((l) => l.received > 0) && (
                <button
                  type="button"
                  className="link-quiet font-semibold"
                  onClick={() => setLabelling(o.number)}
                >
                  {t("Labels")}
                  <span className="sr-only"> {t("of {{number}}", { number: o.number })}</span>
                </button>
              )}
              {may && o.lines.every((l) => l.received === 0) && (
                <button
                  type="button"
                  className="link-quiet font-semibold"
                  onClick={() => {
                    if (window.confirm(t("Drop the order {{number}}? This is final.", { number: o.number })))
                      void done(
                        () =>
                          ok(
                            client.DELETE("/api/lifecycle/orders/{number}", {
                              params: { path: { number: o.id } },
                            }),
                          ),
                        t("{{number}} is dropped.", { number: o.number }),
                      );
                  }}
                >
                  {t("Drop")}
                </button>
              )}
            </div>
            <Table
              list="orders"
              label={t("Lines of {{number}}", { number: o.number })}
              rows={o.lines}
              rowKey={(l) => l.id}
              columns={[
                {
                  key: "what",
                  label: t("What"),
                  of: (l) => [l.kind, l.manufacturer, l.model].filter(Boolean).join(" "),
                  cell: (l) => (
                    <>
                      <b className="font-semibold">{capital(word(l.kind))}</b>{" "}
                      <span className="dim">
                        {l.manufacturer} {l.model}
                      </span>
                    </>
                  ),
                },
                {
                  key: "ordered",
                  label: t("Ordered"),
                  of: (l) => l.quantity,
                  cell: (l) => count(l.quantity),
                  num: true,
                  mono: true,
                },
                {
                  key: "received",
                  label: t("Received"),
                  of: (l) => l.received,
                  cell: (l) => count(l.received),
                  num: true,
                  mono: true,
                },
                {
                  key: "each",
                  label: t("Each"),
                  of: (l) => l.price,
                  cell: (l) => (
                    <>
                      {amount(l.price)} {l.currency}
                    </>
                  ),
                  num: true,
                  mono: true,
                  className: "whitespace-nowrap",
                },
                {
                  key: "warranty",
                  label: t("Warranty"),
                  of: (l) => l.warranty,
                  cell: (l) => (l.warranty ? t("{{warranty}} months", { warranty: l.warranty }) : t("none")),
                  className: "dim",
                },
                { key: "cost_centre", label: t("Cost centre"), of: (l) => l.cost_centre, className: "dim" },
                {
                  key: "do",
                  label: "",
                  cell: (l) =>
                    may &&
                    l.received < l.quantity && (
                      <button
                        type="button"
                        className="btn btn-sm"
                        aria-label={t("Receive {{kind}} of {{number}}", {
                          kind: word(l.kind),
                          number: o.number,
                        })}
                        onClick={() => setReceiving({ order: o, line: l })}
                      >
                        {t("Receive")}
                      </button>
                    ),
                  num: true,
                  className: "whitespace-nowrap",
                },
              ]}
            />
          </section>
        ))}
      </div>
      {labelling && (
        <LabelDialog
          filter={`order = ${quoted(labelling)}`}
          assets={[]}
          named={labelling}
          total={null}
          close={() => setLabelling("")}
        />
      )}
      {entering && <OrderForm close={() => setEntering(false)} />}
      {receiving && <ReceiveForm {...receiving} close={() => setReceiving(null)} />}
    </>
  );
}
