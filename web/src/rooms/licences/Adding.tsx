import { client, ok, type Schemas } from "../../api/client";
import { OfferedField } from "../../parts/ask/OfferedField";
import { Dialog } from "../../parts/Dialog";
import { useDraft } from "../../parts/draft";
import { Choice, FormFoot, TextField } from "../../parts/Form";
import { plural, today } from "../../parts/format";
import { t } from "../../words";

type Held = Schemas["LicenceOut"];

/** Add a purchase line: so many units on a day, at a price each. */
export function PurchaseForm({ licence, close }: { licence: Held; close: () => void }) {
  const { v, field, save, rest } = useDraft(
    {
      day: today(),
      quantity: "",
      price: "",
      currency: "",
      order: "",
      supplier: "",
    },
    { anew: "licences", close },
  );
  const submit = save(async () => {
    const path = { number: licence.id };
    await ok(
      client.POST("/api/licences/{number}/purchases", {
        params: { path },
        body: { ...v, quantity: Number(v.quantity) },
      }),
    );
    return t("{{units}} added to {{name}}.", {
      units: plural(Number(v.quantity), "unit"),
      name: licence.name,
    });
  });
  return (
    <Dialog title={t("Add a purchase of {{name}}", { name: licence.name })} close={close}>
      <form onSubmit={submit}>
        <div className="grid gap-x-4 sm:grid-cols-2">
          <TextField label={t("Day")} type="date" {...field("day")} required />
          <TextField
            label={t("How many {{unit}}", { unit: licence.unit })}
            type="number"
            {...field("quantity")}
            hint={t("Less than nothing gives units back.")}
            required
          />
          <TextField label={t("Price of one")} {...field("price")} placeholder="120.00" required />
          <TextField
            label={t("Currency")}
            mono
            {...field("currency")}
            hint={t("Empty: the company's own.")}
          />
          <TextField label={t("Order")} mono {...field("order")} />
          <OfferedField of="supplier" label={t("Supplier")} {...field("supplier")} />
        </div>
        {rest}
        <FormFoot close={close} save={t("Add")} />
      </form>
    </Dialog>
  );
}

/** Take in records of use, pasted: what concurrent use is reckoned from. */
export function RecordsForm({ close }: { close: () => void }) {
  const { v, field, save, rest } = useDraft({ file: "" }, { anew: "licences", close });
  const { file } = v;
  const submit = save(async () => {
    const told = await ok(client.POST("/api/licences/use-records", { body: { file } }));
    return t("{{records}} taken in{{which}}.", {
      records: plural(told.fresh, "record"),
      which: told.known ? t(", {{known}} known before", { known: told.known }) : "",
    });
  });
  return (
    <Dialog title={t("Records of use")} close={close} wide>
      <form onSubmit={submit}>
        <TextField
          label={t("The records")}
          mono
          rows={10}
          {...field("file")}
          placeholder={t(
            "product,person,device,begins,ends\nBerth view,Una Skerry,pc-4,2026-03-01T08:30,2026-03-01T09:10",
          )}
          hint={t(
            "The first line names the columns; person and device may be left out. The most at once over a year counts.",
          )}
          required
        />
        {rest}
        <FormFoot close={close} save={t("Take them in")} />
      </form>
    </Dialog>
  );
}

/** Say of a product that it may not be used without a licence, or that it may. */
export function NeedForm({ close }: { close: () => void }) {
  const { v, field, save, rest } = useDraft(
    { product: "", needed: "yes" as "yes" | "no" },
    { anew: "licences", close },
  );
  const { product, needed } = v;
  const submit = save(async () => {
    await ok(client.POST("/api/licences/needs", { body: { product, needed: needed === "yes" } }));
    return needed === "yes"
      ? t("{{product}} needs a licence.", { product })
      : t("{{product}} needs no licence.", { product });
  });
  return (
    <Dialog title={t("Which products need a licence")} close={close}>
      <form onSubmit={submit}>
        <p className="dim pb-3 text-[13px]">
          {t(
            "Products that a licence covers are counted anyway. Of others, say which may not be used without one: they are short until you own a licence.",
          )}
        </p>
        <OfferedField
          of="software.product"
          label={t("Product")}
          {...field("product")}
          hint={t("As the Software room calls it.")}
          required
        />
        <Choice
          label={t("It needs a licence")}
          {...field("needed")}
          options={[
            ["yes", "yes"],
            ["no", t("no: take back what was said")],
          ]}
        />
        {rest}
        <FormFoot close={close} />
      </form>
    </Dialog>
  );
}

/** Add keys, many at once. */
export function KeysForm({ licence, close }: { licence: Held; close: () => void }) {
  const { v, field, save, rest } = useDraft({ keys: "", activations: "" }, { anew: "licences", close });
  const { keys, activations } = v;
  const submit = save(async () => {
    const added = await ok(
      client.POST("/api/licences/{number}/keys", {
        params: { path: { number: licence.id } },
        body: { keys, activations: activations ? Number(activations) : null },
      }),
    );
    const ends = added.tails.filter(Boolean).map((word) => `…${word}`);
    const taken = t("{{keys}} added to {{name}}{{which}}.", {
      keys: plural(added.count, "key"),
      name: licence.name,
      which: ends.length ? ` (${ends.slice(0, 6).join(", ")}${ends.length > 6 ? " …" : ""})` : "",
    });
    return added.twice.length
      ? t("{{taken}} Not added again: {{twice}}.", { taken, twice: added.twice.slice(0, 3).join("; ") })
      : taken;
  });
  return (
    <Dialog title={t("Add keys to {{name}}", { name: licence.name })} close={close}>
      <form onSubmit={submit}>
        <TextField
          label={t("Keys")}
          mono
          rows={6}
          {...field("keys")}
          hint={t(
            "Paste as many as there are; lines, semicolons, tabs or commas part them. They are kept sealed.",
          )}
          required
        />
        <TextField
          label={t("Activations a key")}
          type="number"
          {...field("activations")}
          hint={t("How many devices one key may be on; empty: any number.")}
        />
        {rest}
        <FormFoot close={close} save={t("Add")} />
      </form>
    </Dialog>
  );
}
