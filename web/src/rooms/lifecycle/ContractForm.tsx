import { useQueryClient } from "@tanstack/react-query";
import { useNavigate } from "@tanstack/react-router";
import { toast } from "sonner";
import { under } from "../../api/asking";
import { client, ok, type Schemas } from "../../api/client";
import { FilterField } from "../../parts/ask/FilterField";
import { Dialog } from "../../parts/Dialog";
import { useDraft } from "../../parts/draft";
import { Choice, FormFoot, HoldsFrom, TextField } from "../../parts/Form";
import { today } from "../../parts/format";

type Held = Schemas["ContractOut"];

const KINDS = ["support", "maintenance", "lease", "subscription", "service"];

/** Enter a contract, or change one: with whom, for how long, how it goes on, what it costs, what it covers. */
export function ContractForm({ held, close }: { held: Held | null; close: () => void }) {
  const queries = useQueryClient();
  const navigate = useNavigate();
  const { v, field, submit, rest } = useDraft({
    name: held?.name ?? "",
    provider: held?.provider ?? "",
    kind: held?.kind ?? "support",
    number: held?.number ?? "",
    starts: held?.starts ?? "",
    ends: held?.agreed_until ?? "",
    renews: String(held?.renews ?? 0),
    notice: String(held?.notice ?? 0),
    notices: (held?.notices ?? [90, 45, 14]).join(", "),
    cost: held?.cost ?? "",
    currency: held?.currency ?? "",
    every: held?.every ?? "",
    first_payment: held?.first_payment ?? "",
    covers: held?.covers ?? "",
    licences: (held?.licences ?? []).map((l) => l.name).join("\n"),
    people: (held?.people ?? []).map((p) => p.name).join("\n"),
    note: held?.note ?? "",
    holds_from: today(),
  });
  const save = submit(async () => {
    const body = {
      ...v,
      starts: v.starts || null,
      ends: v.ends || null,
      first_payment: v.first_payment || null,
      licences: v.licences.split("\n"),
      people: v.people.split("\n"),
      renews: Number(v.renews),
      notice: Number(v.notice),
      notices: v.notices
        .split(",")
        .filter((n) => n.trim())
        .map(Number),
      version: held?.version ?? 0,
      holds_from: held ? v.holds_from || null : null,
    };

    const made = held
      ? await ok(
          client.PUT("/api/lifecycle/contracts/{number}", { params: { path: { number: held.id } }, body }),
        )
      : await ok(client.POST("/api/lifecycle/contracts", { body }));
    toast.success(`“${made.name}” is ${held ? "changed" : "entered"}.`);
    await queries.invalidateQueries(under("lifecycle"));
    close();
    if (!held)
      await navigate({
        to: "/lifecycle/contracts/$contract",
        params: { contract: String(made.id) },
        search: {},
      });
  });
  return (
    <Dialog title={held ? `Change ${held.name}` : "Enter a contract"} close={close} wide>
      <form onSubmit={save}>
        <div className="grid gap-x-4 sm:grid-cols-2">
          <TextField label="Name" {...field("name")} required />
          <TextField label="Provider" {...field("provider")} required />
          <Choice label="Kind" {...field("kind")} options={KINDS.map((k): [string, string] => [k, k])} />
          <TextField label="Number" mono {...field("number")} />
          <TextField label="Begins" type="date" {...field("starts")} required />
          <TextField label="First term ends" type="date" {...field("ends")} hint="Empty: no end is agreed." />
          <TextField
            label="Goes on by, months"
            type="number"
            {...field("renews")}
            hint="Unless notice is given; 0: it is over at its end."
          />
          <TextField label="Notice, days before the end" type="number" {...field("notice")} />
          <TextField
            label="Tell people, days before the end"
            {...field("notices")}
            hint="90, 45, 14. A watch on “Notices of what ends” writes them."
          />
          <Choice
            label="Paid"
            {...field("every")}
            options={[
              ["", "nothing"],
              ["once", "once"],
              ["month", "each month"],
              ["quarter", "each quarter"],
              ["half year", "each half year"],
              ["year", "each year"],
            ]}
          />
          {v.every && (
            <>
              <div className="grid grid-cols-[1fr_90px] gap-2">
                <TextField label="Amount" {...field("cost")} />
                <TextField label="Currency" mono {...field("currency")} placeholder="EUR" />
              </div>
              <TextField
                label="First payment"
                type="date"
                {...field("first_payment")}
                hint="Empty: the day it begins."
              />
            </>
          )}
        </div>
        {held && (
          <HoldsFrom {...field("holds_from")} hint="What was paid before stays as it was agreed then." />
        )}
        <FilterField
          label="Covers the devices that answer"
          {...field("covers")}
          placeholder="kind = printer and place = Saltholm"
          hint="A filter, or a set: in set “…”. Empty: no devices."
        />
        <div className="grid gap-x-4 sm:grid-cols-2">
          <TextField label="And the licences" rows={2} {...field("licences")} hint="One a line, by name." />
          <TextField label="And the people" rows={2} {...field("people")} hint="One a line, by name." />
        </div>
        <TextField label="Note" rows={2} {...field("note")} />
        {rest}
        <FormFoot close={close} />
      </form>
    </Dialog>
  );
}
