import { useQuery, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { toast } from "sonner";
import { asks, under } from "../../api/asking";
import { client, ok, type Schemas } from "../../api/client";
import { Dialog } from "../../parts/Dialog";
import { useDraft } from "../../parts/draft";
import { Choice, FormFoot, TextField, Tick } from "../../parts/Form";
import { asOrganisation, OrganisationChoice } from "../../parts/Organisation";
import { Schedule } from "../../parts/Schedule";
import { Secret } from "../../parts/Secret";
import { t } from "../../words";

type Watch = Schemas["WatchOut"];

/** Make a watch of a report, or change one. */
export function WatchForm(props: { held: Watch | null; report: string; name: string; close: () => void }) {
  const { held, close } = props;
  const queries = useQueryClient();
  const conditions =
    useQuery({
      ...asks("/api/watches/conditions"),
      staleTime: Number.POSITIVE_INFINITY,
    }).data ?? [];
  const reports = useQuery(asks("/api/reports/list"));
  const {
    v: values,
    set,
    field,
    tick,
    submit,
    attempt,
    wrong,
    rest,
  } = useDraft({
    name: held?.name ?? props.name,
    report: held?.report ?? props.report,
    rule: held?.rule ?? "FREQ=WEEKLY;BYDAY=MO;BYHOUR=7;BYMINUTE=0",
    condition: held?.condition ?? "new",
    number: String(held?.number ?? 0),
    to: (held?.to ?? []).join(", "),
    attach: held?.attach ?? "",
    quiet: held?.quiet ?? "",
    on: held?.on ?? true,
    insists: held?.insists ?? false,
    gathered: held?.gathered ?? false,
    organisation: "",
  });
  const [secret, setSecret] = useState("");
  const finish = async (said: string) => {
    toast.success(said);
    await queries.invalidateQueries(under("watches"));
    close();
  };
  const save = submit(async () => {
    const body = {
      ...values,
      number: Number(values.number) || 0,
      to: values.to
        .split(/[,;\n]+/)
        .map((address) => address.trim())
        .filter(Boolean),
      version: held?.version,
      organisation: asOrganisation(values.organisation),
    };

    const made = held
      ? await ok(client.PUT("/api/watches/{number}", { params: { path: { number: held.id } }, body }))
      : await ok(client.POST("/api/watches", { body }));
    if (made.secret) {
      await queries.invalidateQueries(under("watches"));
      setSecret(made.secret);
    } else await finish(t("“{{name}}” watches: {{said}}.", { name: made.name, said: made.said }));
  });
  const drop = async () => {
    if (
      !held ||
      !window.confirm(
        t("Drop the watch “{{name}}” and the list of its letters? This is final.", { name: held.name }),
      )
    )
      return;
    await attempt(async () => {
      await ok(client.DELETE("/api/watches/{number}", { params: { path: { number: held.id } } }));
      await finish(t("“{{name}}” is dropped.", { name: held.name }));
    });
  };
  const numbered = conditions.find((c) => c.key === values.condition)?.number;
  if (secret) return <Secret secret={secret} close={close} />;
  return (
    <Dialog title={held ? t("Change {{name}}", { name: held.name }) : t("New watch")} close={close}>
      <form onSubmit={save}>
        <TextField label={t("Name")} {...field("name")} required />
        <Choice
          label={t("Asks the report")}
          {...field("report")}
          options={[["", "choose"], ...(reports.data ?? []).map((r): [string, string] => [r.key, r.name])]}
        />
        <Schedule label={t("Asks")} rule={values.rule} set={(rule) => set({ rule })} wrong={wrong("rule")} />
        <div className="grid grid-cols-[1fr_96px] gap-3">
          <Choice
            label={t("Writes when")}
            {...field("condition")}
            options={conditions.map((c) => [c.key, c.sentence] as const)}
          />
          {numbered && <TextField label={numbered} type="number" {...field("number")} />}
        </div>
        <TextField
          label={t("To")}
          {...field("to")}
          hint={t(
            "Parted by commas: addresses; role:manager; person:Una Skerry; holder, who is told of their own devices only; or https://… for a signed call.",
          )}
          required
        />
        <div className="grid grid-cols-2 gap-3">
          <Choice
            label={t("Attach")}
            {...field("attach")}
            options={[
              ["", "nothing"],
              ["xlsx", "a workbook"],
              ["ods", t("an OpenDocument sheet")],
              ["csv", "CSV"],
              ["pdf", "PDF"],
            ]}
          />
          <TextField
            label={t("Quiet hours")}
            {...field("quiet")}
            placeholder="22-6"
            hint={t("Letters wait until they are over.")}
          />
        </div>
        <OrganisationChoice label={t("For the organisation")} {...field("organisation")} />
        <Tick label={t("Write again each time until somebody has acknowledged it")} {...tick("insists")} />
        <Tick label={t("With other watches’ letters in one message a day, at seven")} {...tick("gathered")} />
        <Tick label={t("In force")} {...tick("on")} />
        {rest}
        <FormFoot close={close} drop={held ? () => void drop() : undefined} />
      </form>
    </Dialog>
  );
}
