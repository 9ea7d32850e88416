import { useQueryClient } from "@tanstack/react-query";
import { client, ok } from "../../api/client";
import { believed, type Claims } from "../../api/types";
import { OfferedField } from "../../parts/ask/OfferedField";
import { Dialog } from "../../parts/Dialog";
import { useDraft } from "../../parts/draft";
import { FormFoot, TextField } from "../../parts/Form";
import { iso, minorText } from "../../parts/format";
import { undoToast } from "../../parts/undo";
import { t } from "../../words";

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
  const said = (field: string) => believed(claims, field);
  const price = said("price");
  const { v, field, submit, rest } = useDraft({
    bought: onDay(said("bought_at")),
    price: price === null ? "" : minorText(Number(price), String(said("currency") ?? "EUR")),
    currency: String(said("currency") ?? ""),
    supplier: String(said("supplier") ?? ""),
    order: String(said("order") ?? ""),
    cost_centre: String(said("cost_centre") ?? ""),
    warranty_from: onDay(said("warranty_from")),
    warranty_end: onDay(said("warranty_end")),
  });
  const save = submit(async () => {
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
      t("Saved, with your name and today’s date."),
      done.entry,
      () => void queries.invalidateQueries(),
    );
    await queries.invalidateQueries();
    close();
  });
  return (
    <Dialog title={t("How it was acquired")} close={close}>
      <form onSubmit={save}>
        <p className="dim mb-3 text-[13px]">
          {t("Your word outranks files and makers. What you leave empty is taken back.")}
        </p>
        <div className="grid gap-x-3 sm:grid-cols-2">
          <TextField label={t("Bought")} type="date" {...field("bought")} />
          <TextField label={t("Order")} mono {...field("order")} />
          <TextField label={t("Price")} {...field("price")} />
          <TextField label={t("Currency")} mono {...field("currency")} placeholder={t("the company's")} />
          <OfferedField of="supplier" label={t("Supplier")} {...field("supplier")} />
          <OfferedField of="cost_centre" label={t("Cost centre")} {...field("cost_centre")} />
          <TextField label={t("Warranty from")} type="date" {...field("warranty_from")} />
          <TextField label={t("Warranty until")} type="date" {...field("warranty_end")} />
        </div>
        {rest}
        <FormFoot close={close} />
      </form>
    </Dialog>
  );
}
