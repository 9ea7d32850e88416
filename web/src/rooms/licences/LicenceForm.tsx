import { useQuery, useQueryClient } from "@tanstack/react-query";
import { useNavigate } from "@tanstack/react-router";
import { toast } from "sonner";
import { asks, under } from "../../api/asking";
import { client, ok, type Schemas } from "../../api/client";
import { OfferedField } from "../../parts/ask/OfferedField";
import { Dialog } from "../../parts/Dialog";
import { useDraft } from "../../parts/draft";
import { Choice, FormFoot, HoldsFrom, TextField, Tick } from "../../parts/Form";
import { today } from "../../parts/format";
import { t } from "../../words";

type Held = Schemas["LicenceOut"];

const lines = (text: string) =>
  text
    .split("\n")
    .map((line) => line.trim())
    .filter(Boolean);

/** Lines of “name: value”. */
function pairs(text: string): Record<string, string> {
  return Object.fromEntries(
    lines(text).map((line) => {
      const [name = "", ...value] = line.split(":");
      return [name.trim(), value.join(":").trim()];
    }),
  );
}

function begun(held: Held | null, product: string) {
  return {
    name: held?.name ?? product,
    publisher: held?.publisher ?? "",
    metric: held?.metric ?? "device",
    products: (held?.products ?? (product ? [product] : [])).join("\n"),
    release: held?.release ?? "",
    downgrade: held?.downgrade ?? false,
    second_device: held?.second_device ?? false,
    guests: (held?.guests ?? "own") as "own" | "host",
    per_host: String(held?.per_host ?? 1),
    per_processor: String(held?.per_processor ?? 0),
    pack: String(held?.pack ?? 1),
    formula: held?.formula ?? "",
    departments: (held?.departments ?? []).join("\n"),
    without_limit: held?.without_limit ?? false,
    starts: held?.starts ?? "",
    ends: held?.ends ?? "",
    maintained_until: held?.maintained_until ?? "",
    keys_wanted: held?.keys_wanted ?? false,
    transferable: held?.transferable ?? true,
    edition: held?.edition ?? "",
    shared: held?.shared ?? false,
    cost: held?.cost ?? "",
    cost_currency: held?.cost_currency ?? "",
    cost_every: held?.cost_every ?? "",
    note: held?.note ?? "",
    tags: (held?.tags ?? []).join("; "),
    extra: Object.entries(held?.extra ?? {})
      .map(([name, value]) => `${name}: ${value}`)
      .join("\n"),
    holds_from: today(),
  };
}

/** Enter a licence, or change one: what it covers, how it is counted, which rights it gives, for how long. */
export function LicenceForm({
  held,
  close,
  product = "",
}: {
  held: Held | null;
  close: () => void;
  product?: string;
}) {
  const queries = useQueryClient();
  const navigate = useNavigate();
  const metrics = useQuery({
    ...asks("/api/licences/metrics"),
    staleTime: Number.POSITIVE_INFINITY,
  });
  const { v, field, tick, submit, rest } = useDraft(begun(held, product));
  const save = submit(async () => {
    const body = {
      ...v,
      products: lines(v.products),
      departments: lines(v.departments),
      per_host: Number(v.per_host),
      per_processor: Number(v.per_processor),
      pack: Number(v.pack),
      starts: v.starts || null,
      ends: v.ends || null,
      maintained_until: v.maintained_until || null,
      tags: v.tags.split(";"),
      extra: pairs(v.extra),
      holds_from: held ? v.holds_from || null : null,
      version: held?.version ?? 0,
    };

    const made = held
      ? await ok(client.PUT("/api/licences/{number}", { params: { path: { number: held.id } }, body }))
      : await ok(client.POST("/api/licences", { body }));
    toast.success(
      t("“{{name}}” is {{which}}.", { name: made.name, which: held ? t("changed") : t("entered") }),
    );
    await queries.invalidateQueries(under("licences"));
    close();
    if (!held) await navigate({ to: "/licences/$licence", params: { licence: String(made.id) }, search: {} });
  });
  const metric = metrics.data?.find((m) => m.name === v.metric);
  const reads = (term: string) => metric?.reads.includes(term) ?? false;
  return (
    <Dialog
      title={held ? t("Change {{name}}", { name: held.name }) : t("Enter a licence")}
      close={close}
      wide
    >
      <form onSubmit={save}>
        <div className="grid gap-x-4 sm:grid-cols-2">
          <TextField label={t("Name")} {...field("name")} required />
          <OfferedField of="software.publisher" label={t("Publisher")} {...field("publisher")} />
          <TextField
            label={t("Covers")}
            rows={3}
            {...field("products")}
            hint={t("One product a line, or a phrase such as @office_suites; a suite names all its parts.")}
          />
          <Choice
            label={t("Counted by")}
            {...field("metric")}
            options={(metrics.data ?? []).map((m): [string, string] => [m.name, m.name])}
            hint={metric?.text}
          />
          {reads("per_processor") && (
            <TextField label={t("Cores a processor, at least")} type="number" {...field("per_processor")} />
          )}
          {reads("pack") && <TextField label={t("In packs of")} type="number" {...field("pack")} />}
          {reads("formula") && (
            <TextField
              label={t("Formula")}
              mono
              {...field("formula")}
              placeholder={t("memory / 16")}
              hint={t("Over memory (GB) and cores.")}
            />
          )}
          {reads("guests") && (
            <Choice
              label={t("Virtual machines")}
              {...field("guests")}
              options={[
                ["own", t("each needs its own units")],
                ["host", t("the host's units carry its guests")],
              ]}
            />
          )}
          {reads("per_host") && v.guests === "host" && (
            <TextField label={t("Guests a unit carries")} type="number" {...field("per_host")} />
          )}
          <TextField
            label={t("Release bought")}
            mono
            {...field("release")}
            placeholder="16"
            hint={t("Empty: any release.")}
          />
          <TextField label={t("Edition")} {...field("edition")} hint={t("Empty: any edition.")} />
          <TextField
            label={t("Maintenance until")}
            type="date"
            {...field("maintained_until")}
            hint={t("Newer releases installed by then are covered.")}
          />
          <TextField label={t("Begins")} type="date" {...field("starts")} />
          <TextField label={t("Ends")} type="date" {...field("ends")} hint={t("Empty: perpetual.")} />
          <TextField
            label={t("Only for departments")}
            rows={2}
            {...field("departments")}
            hint={t("One a line; empty: the whole company.")}
          />
          <div className="pt-5">
            <Tick label={t("May be used in older releases")} {...tick("downgrade")} />
            {reads("second_device") && (
              <Tick label={t("Second device of the same person")} {...tick("second_device")} />
            )}
            <Tick label={t("Without limit in number")} {...tick("without_limit")} />
            <Tick label={t("Keys are wanted")} {...tick("keys_wanted")} />
            <Tick label={t("May be moved to another device or person")} {...tick("transferable")} />
            <Tick label={t("Also covers what other organisations use")} {...tick("shared")} />
          </div>
          <Choice
            label={t("Paid again")}
            {...field("cost_every")}
            options={[
              ["", "no"],
              ["month", t("each month")],
              ["quarter", t("each quarter")],
              ["half year", t("each half year")],
              ["year", t("each year")],
            ]}
          />
          {v.cost_every && (
            <div className="grid grid-cols-[1fr_90px] gap-2">
              <TextField label={t("Amount")} {...field("cost")} />
              <TextField label={t("Currency")} mono {...field("cost_currency")} placeholder={t("EUR")} />
            </div>
          )}
        </div>
        <div className="grid gap-x-4 sm:grid-cols-2">
          <TextField label={t("Tags")} {...field("tags")} hint={t("Parted by semicolons.")} />
          {held && <HoldsFrom {...field("holds_from")} hint={t("Days before keep the terms they had.")} />}
          <TextField
            label={t("Fields of your own")}
            rows={2}
            {...field("extra")}
            hint={t("One a line, such as Agreement: EA-7.")}
          />
          <TextField label={t("Note")} rows={2} {...field("note")} />
        </div>
        {rest}
        <FormFoot close={close} />
      </form>
    </Dialog>
  );
}
