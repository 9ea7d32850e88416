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
import { t } from "../../words";

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
    toast.success(
      t("“{{name}}” is {{which}}.", { name: made.name, which: held ? t("changed") : t("entered") }),
    );
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
    <Dialog
      title={held ? t("Change {{name}}", { name: held.name }) : t("Enter a contract")}
      close={close}
      wide
    >
      <form onSubmit={save}>
        <div className="grid gap-x-4 sm:grid-cols-2">
          <TextField label={t("Name")} {...field("name")} required />
          <TextField label={t("Provider")} {...field("provider")} required />
          <Choice label={t("Kind")} {...field("kind")} options={KINDS.map((k): [string, string] => [k, k])} />
          <TextField label={t("Number")} mono {...field("number")} />
          <TextField label={t("Begins")} type="date" {...field("starts")} required />
          <TextField
            label={t("First term ends")}
            type="date"
            {...field("ends")}
            hint={t("Empty: no end is agreed.")}
          />
          <TextField
            label={t("Goes on by, months")}
            type="number"
            {...field("renews")}
            hint={t("Unless notice is given; 0: it is over at its end.")}
          />
          <TextField label={t("Notice, days before the end")} type="number" {...field("notice")} />
          <TextField
            label={t("Tell people, days before the end")}
            {...field("notices")}
            hint={t("90, 45, 14. A watch on “Notices of what ends” writes them.")}
          />
          <Choice
            label={t("Paid")}
            {...field("every")}
            options={[
              ["", "nothing"],
              ["once", "once"],
              ["month", t("each month")],
              ["quarter", t("each quarter")],
              ["half year", t("each half year")],
              ["year", t("each year")],
            ]}
          />
          {v.every && (
            <>
              <div className="grid grid-cols-[1fr_90px] gap-2">
                <TextField label={t("Amount")} {...field("cost")} />
                <TextField label={t("Currency")} mono {...field("currency")} placeholder={t("EUR")} />
              </div>
              <TextField
                label={t("First payment")}
                type="date"
                {...field("first_payment")}
                hint={t("Empty: the day it begins.")}
              />
            </>
          )}
        </div>
        {held && (
          <HoldsFrom {...field("holds_from")} hint={t("What was paid before stays as it was agreed then.")} />
        )}
        <FilterField
          label={t("Covers the devices that answer")}
          {...field("covers")}
          placeholder="kind = printer and place = Saltholm"
          hint={t("A filter, or a set: in set “…”. Empty: no devices.")}
        />
        <div className="grid gap-x-4 sm:grid-cols-2">
          <TextField
            label={t("And the licences")}
            rows={2}
            {...field("licences")}
            hint={t("One a line, by name.")}
          />
          <TextField
            label={t("And the people")}
            rows={2}
            {...field("people")}
            hint={t("One a line, by name.")}
          />
        </div>
        <TextField label={t("Note")} rows={2} {...field("note")} />
        {rest}
        <FormFoot close={close} />
      </form>
    </Dialog>
  );
}
