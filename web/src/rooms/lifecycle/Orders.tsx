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
  if (asked.error || !asked.data) return <Unanswered asked={asked} what="Reading orders …" />;
  return (
    <>
      {may && (
        <div className="flex justify-end pb-2.5">
          <button type="button" className="btn btn-sm" onClick={() => setEntering(true)}>
            Enter an order
          </button>
        </div>
      )}
      {asked.data.length === 0 && (
        <Empty title="No order is entered yet.">
          What comes of an order is received by its serial numbers and becomes assets, with price and
          warranty.
        </Empty>
      )}
      <div className="space-y-3">
        {asked.data.map((o) => (
          <section key={o.id} className="sheet overflow-x-auto" aria-label={`Order ${o.number}`}>
            <div className="flex flex-wrap items-center gap-x-3 px-3.5 py-2 text-[13px]">
              <h2 className="mono text-[14.5px] font-semibold">{o.number}</h2>
              <span>{o.supplier}</span>
              <span className="dim">ordered {day(o.day)}</span>
              {o.expected && o.open && <span className="dim">expected {day(o.expected)}</span>}
              {o.late && <span className="tag warn">late</span>}
              {!o.open && <span className="tag ok">all received</span>}
              <span className="flex-1" />
              <Link
                to="/estate"
                search={{ at, q: `order = ${quoted(o.number)}` }}
                className="link-quiet font-semibold"
              >
                Its assets
              </Link>
              {mayLabel && o.lines.some((l) => l.received > 0) && (
                <button
                  type="button"
                  className="link-quiet font-semibold"
                  onClick={() => setLabelling(o.number)}
                >
                  Labels<span className="sr-only"> of {o.number}</span>
                </button>
              )}
              {may && o.lines.every((l) => l.received === 0) && (
                <button
                  type="button"
                  className="link-quiet font-semibold"
                  onClick={() => {
                    if (window.confirm(`Drop the order ${o.number}? This is final.`))
                      void done(
                        () =>
                          ok(
                            client.DELETE("/api/lifecycle/orders/{number}", {
                              params: { path: { number: o.id } },
                            }),
                          ),
                        `${o.number} is dropped.`,
                      );
                  }}
                >
                  Drop
                </button>
              )}
            </div>
            <Table
              list="orders"
              label={`Lines of ${o.number}`}
              rows={o.lines}
              rowKey={(l) => l.id}
              columns={[
                {
                  key: "what",
                  label: "What",
                  of: (l) => [l.kind, l.manufacturer, l.model].filter(Boolean).join(" "),
                  cell: (l) => (
                    <>
                      <b className="font-semibold">{capital(l.kind)}</b>{" "}
                      <span className="dim">
                        {l.manufacturer} {l.model}
                      </span>
                    </>
                  ),
                },
                {
                  key: "ordered",
                  label: "Ordered",
                  of: (l) => l.quantity,
                  cell: (l) => count(l.quantity),
                  num: true,
                  mono: true,
                },
                {
                  key: "received",
                  label: "Received",
                  of: (l) => l.received,
                  cell: (l) => count(l.received),
                  num: true,
                  mono: true,
                },
                {
                  key: "each",
                  label: "Each",
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
                  label: "Warranty",
                  of: (l) => l.warranty,
                  cell: (l) => (l.warranty ? `${l.warranty} months` : "none"),
                  className: "dim",
                },
                { key: "cost_centre", label: "Cost centre", of: (l) => l.cost_centre, className: "dim" },
                {
                  key: "do",
                  label: "",
                  cell: (l) =>
                    may &&
                    l.received < l.quantity && (
                      <button
                        type="button"
                        className="btn btn-sm"
                        aria-label={`Receive ${l.kind} of ${o.number}`}
                        onClick={() => setReceiving({ order: o, line: l })}
                      >
                        Receive
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
