import { useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { client, ok } from "../../api/client";
import type { Claims } from "../../api/types";
import { Dialog } from "../../parts/Dialog";
import { FormFoot, TextField, useFaults } from "../../parts/Form";
import { iso, minorText } from "../../parts/format";
import { undoToast } from "../../parts/undo";

/** A moment as a date one can change; noon of a day is that day wherever it is read. */
const onDay = (value: unknown) => (value ? iso(Number(value)).slice(0, 10) : "");

/** What somebody types of how an asset was acquired; it outranks files and makers. */
export function AcquisitionForm({
  asset,
  claims,
  close,
}: {
  asset: number;
  claims: Claims;
  close: () => void;
}) {
  const queries = useQueryClient();
  const said = (field: string) => claims[field]?.find((c) => c.believed)?.value ?? null;
  const price = said("price");
  const [v, setValues] = useState({
    bought: onDay(said("bought_at")),
    price: price === null ? "" : minorText(Number(price), String(said("currency") ?? "EUR")),
    currency: String(said("currency") ?? ""),
    supplier: String(said("supplier") ?? ""),
    order: String(said("order") ?? ""),
    cost_centre: String(said("cost_centre") ?? ""),
    warranty_from: onDay(said("warranty_from")),
    warranty_end: onDay(said("warranty_end")),
  });
  const { setError, wrong, rest } = useFaults();
  const set = (change: Partial<typeof v>) => setValues({ ...v, ...change });
  const save = async (event: React.FormEvent) => {
    event.preventDefault();
    setError(null);
    try {
      const done = await ok(
        client.PUT("/api/lifecycle/assets/{asset}/acquisition", {
          params: { path: { asset } },
          body: {
            ...v,
            bought: v.bought || null,
            warranty_from: v.warranty_from || null,
            warranty_end: v.warranty_end || null,
          },
        }),
      );
      undoToast(
        "Saved, with your name and today’s date.",
        done.entry,
        () => void queries.invalidateQueries(),
      );
      await queries.invalidateQueries();
      close();
    } catch (refused) {
      setError(refused);
    }
  };
  return (
    <Dialog title="How it was acquired" close={close}>
      <form onSubmit={save}>
        <p className="dim mb-3 text-[13px]">
          Your word outranks files and makers. What you leave empty is taken back.
        </p>
        <div className="grid gap-x-3 sm:grid-cols-2">
          <TextField label="Bought" type="date" value={v.bought} set={(bought) => set({ bought })} />
          <TextField label="Order" mono value={v.order} set={(order) => set({ order })} />
          <TextField label="Price" value={v.price} set={(p) => set({ price: p })} wrong={wrong("price")} />
          <TextField
            label="Currency"
            mono
            value={v.currency}
            set={(currency) => set({ currency })}
            wrong={wrong("currency")}
            placeholder="the company's"
          />
          <TextField label="Supplier" value={v.supplier} set={(supplier) => set({ supplier })} />
          <TextField label="Cost centre" value={v.cost_centre} set={(cost_centre) => set({ cost_centre })} />
          <TextField
            label="Warranty from"
            type="date"
            value={v.warranty_from}
            set={(warranty_from) => set({ warranty_from })}
          />
          <TextField
            label="Warranty until"
            type="date"
            value={v.warranty_end}
            set={(warranty_end) => set({ warranty_end })}
            wrong={wrong("warranty_end")}
          />
        </div>
        {rest}
        <FormFoot close={close} />
      </form>
    </Dialog>
  );
}
