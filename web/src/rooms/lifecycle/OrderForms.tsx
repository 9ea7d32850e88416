import { useState } from "react";
import { client, ok, type Schemas } from "../../api/client";
import { OfferedField } from "../../parts/ask/OfferedField";
import { Dialog } from "../../parts/Dialog";
import { useDraft } from "../../parts/draft";
import { FormFoot, TextField, Tick } from "../../parts/Form";
import { plural, today } from "../../parts/format";
import { t, word } from "../../words";

type Line = Schemas["OrderLineIn"];
type Draft = { [field in keyof Required<Line>]: string };

const EMPTY: Draft = {
  kind: "laptop",
  quantity: "",
  price: "",
  currency: "",
  manufacturer: "",
  model: "",
  warranty: "36",
  cost_centre: "",
};

/** Enter an order with its lines. */
export function OrderForm({ close }: { close: () => void }) {
  const { v, field, save, wrong, rest } = useDraft(
    { number: "", supplier: "", day: today(), expected: "", note: "" },
    { anew: "lifecycle", close },
  );
  const [lines, setLines] = useState<Draft[]>([EMPTY]);
  const setLine = (at: number, change: Partial<Draft>) =>
    setLines(lines.map((l, n) => (n === at ? { ...l, ...change } : l)));
  const submit = save(async () => {
    const made = await ok(
      client.POST("/api/lifecycle/orders", {
        body: {
          ...v,
          expected: v.expected || null,
          lines: lines.map((l) => ({ ...l, quantity: Number(l.quantity), warranty: Number(l.warranty) })),
        },
      }),
    );
    return t("Order {{number}} is entered.", { number: made.number });
  });
  return (
    <Dialog title={t("Enter an order")} close={close} wide>
      <form onSubmit={submit}>
        <div className="grid gap-x-4 sm:grid-cols-2">
          <TextField label={t("Number")} mono {...field("number")} />
          <OfferedField of="supplier" label={t("Supplier")} {...field("supplier")} />
          <TextField label={t("Ordered")} type="date" {...field("day")} required />
          <TextField label={t("Expected")} type="date" {...field("expected")} />
        </div>
        {lines.map((l, n) => (
          <fieldset key={n} className="mb-2 rounded border border-base-300 px-3 pt-2">
            <legend className="dim px-1 text-[12.5px]">{t("Line {{n}}", { n: n + 1 })}</legend>
            <div className="grid gap-x-3 sm:grid-cols-4">
              <TextField label={t("Kind")} value={l.kind} set={(kind) => setLine(n, { kind })} />
              <TextField
                label={t("Maker")}
                value={l.manufacturer}
                set={(manufacturer) => setLine(n, { manufacturer })}
              />
              <OfferedField
                of="model"
                label={t("Model")}
                value={l.model}
                set={(model) => setLine(n, { model })}
              />
              <TextField
                label={t("How many")}
                type="number"
                value={l.quantity}
                set={(quantity) => setLine(n, { quantity })}
                required
              />
              <TextField label={t("Price of one")} value={l.price} set={(price) => setLine(n, { price })} />
              <TextField
                label={t("Currency")}
                mono
                value={l.currency}
                set={(currency) => setLine(n, { currency })}
                placeholder={t("EUR")}
              />
              <TextField
                label={t("Warranty, months")}
                type="number"
                value={l.warranty}
                set={(warranty) => setLine(n, { warranty })}
              />
              <TextField
                label={t("Cost centre")}
                value={l.cost_centre}
                set={(cost_centre) => setLine(n, { cost_centre })}
              />
            </div>
          </fieldset>
        ))}
        {wrong("lines") && (
          <p role="alert" className="mb-2 text-[12.5px] font-semibold text-error">
            {wrong("lines")}
          </p>
        )}
        <button type="button" className="btn btn-sm mb-3" onClick={() => setLines([...lines, EMPTY])}>
          {t("Another line")}
        </button>
        <TextField label={t("Note")} {...field("note")} />
        {rest}
        <FormFoot close={close} />
      </form>
    </Dialog>
  );
}

/** Receive pieces of a line by their serial numbers, pasted or scanned. */
export function ReceiveForm(props: {
  order: Schemas["OrderOut"];
  line: Schemas["OrderLineOut"];
  close: () => void;
}) {
  const { order, line, close } = props;
  const { v, field, tick, save, wrong, rest } = useDraft(
    { serials: "", day: today(), place: "", known: false },
    { anew: "lifecycle", close },
  );
  const left = line.quantity - line.received;
  const submit = save(async () => {
    const told = await ok(
      client.POST("/api/lifecycle/order-lines/{number}/receive", {
        params: { path: { number: line.id } },
        body: v,
      }),
    );
    return t("{{assets}} received with {{number}}.", {
      assets: plural(told.assets.length, "asset"),
      number: order.number,
    });
  });
  return (
    <Dialog
      title={t("Receive {{kind}} of {{number}}", { kind: word(line.kind), number: order.number })}
      close={close}
    >
      <form onSubmit={submit}>
        <p className="dim pb-3 text-[13px]">
          {t(
            "{{left}} of {{quantity}} still to come. Each serial number becomes an asset in stock, with its price",
            { left, quantity: line.quantity },
          )}
          {line.warranty > 0 &&
            t(" and {{warranty}} months of warranty from the day", { warranty: line.warranty })}
          {t("; one that a sweep has found is that asset.")}
        </p>
        <TextField
          label={t("Serial numbers")}
          mono
          rows={6}
          {...field("serials")}
          hint={t("Scanned one a line, or pasted: lines, semicolons, tabs or commas part them.")}
          required
        />
        <div className="grid gap-x-4 sm:grid-cols-2">
          <TextField label={t("Received")} type="date" {...field("day")} required />
          <OfferedField of="place" label={t("Place")} {...field("place")} />
        </div>
        {(wrong("known") || v.known) && (
          <>
            <p className="py-1 text-[13px] text-error">{wrong("known")}</p>
            <Tick label={t("Those that are known already are these devices")} {...tick("known")} />
          </>
        )}
        {rest}
        <FormFoot close={close} save={t("Receive")} />
      </form>
    </Dialog>
  );
}
