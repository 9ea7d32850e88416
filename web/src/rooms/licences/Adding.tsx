import { client, ok, type Schemas } from "../../api/client";
import { OfferedField } from "../../parts/ask/OfferedField";
import { Dialog } from "../../parts/Dialog";
import { useDraft } from "../../parts/draft";
import { Choice, FormFoot, TextField } from "../../parts/Form";
import { plural, today } from "../../parts/format";

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
    return `${plural(Number(v.quantity), "unit")} added to ${licence.name}.`;
  });
  return (
    <Dialog title={`Add a purchase of ${licence.name}`} close={close}>
      <form onSubmit={submit}>
        <div className="grid gap-x-4 sm:grid-cols-2">
          <TextField label="Day" type="date" {...field("day")} required />
          <TextField
            label={`How many ${licence.unit}`}
            type="number"
            {...field("quantity")}
            hint="Less than nothing gives units back."
            required
          />
          <TextField label="Price of one" {...field("price")} placeholder="120.00" required />
          <TextField label="Currency" mono {...field("currency")} hint="Empty: the company's own." />
          <TextField label="Order" mono {...field("order")} />
          <OfferedField of="supplier" label="Supplier" {...field("supplier")} />
        </div>
        {rest}
        <FormFoot close={close} save="Add" />
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
    return `${plural(told.fresh, "record")} taken in${told.known ? `, ${told.known} known before` : ""}.`;
  });
  return (
    <Dialog title="Records of use" close={close} wide>
      <form onSubmit={submit}>
        <TextField
          label="The records"
          mono
          rows={10}
          {...field("file")}
          placeholder={
            "product,person,device,begins,ends\nBerth view,Una Skerry,pc-4,2026-03-01T08:30,2026-03-01T09:10"
          }
          hint="The first line names the columns; person and device may be left out. The most at once over a year counts."
          required
        />
        {rest}
        <FormFoot close={close} save="Take them in" />
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
    return needed === "yes" ? `${product} needs a licence.` : `${product} needs no licence.`;
  });
  return (
    <Dialog title="Which products need a licence" close={close}>
      <form onSubmit={submit}>
        <p className="dim pb-3 text-[13px]">
          Products that a licence covers are counted anyway. Of others, say which may not be used without one:
          they are short until you own a licence.
        </p>
        <OfferedField
          of="software.product"
          label="Product"
          {...field("product")}
          hint="As the Software room calls it."
          required
        />
        <Choice
          label="It needs a licence"
          {...field("needed")}
          options={[
            ["yes", "yes"],
            ["no", "no: take back what was said"],
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
    const taken = `${plural(added.count, "key")} added to ${licence.name}${ends.length ? ` (${ends.slice(0, 6).join(", ")}${ends.length > 6 ? " …" : ""})` : ""}.`;
    return added.twice.length ? `${taken} Not added again: ${added.twice.slice(0, 3).join("; ")}.` : taken;
  });
  return (
    <Dialog title={`Add keys to ${licence.name}`} close={close}>
      <form onSubmit={submit}>
        <TextField
          label="Keys"
          mono
          rows={6}
          {...field("keys")}
          hint="Paste as many as there are; lines, semicolons, tabs or commas part them. They are kept sealed."
          required
        />
        <TextField
          label="Activations a key"
          type="number"
          {...field("activations")}
          hint="How many devices one key may be on; empty: any number."
        />
        {rest}
        <FormFoot close={close} save="Add" />
      </form>
    </Dialog>
  );
}
