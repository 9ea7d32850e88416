import { useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { toast } from "sonner";
import { ApiProblem, client, ok } from "../../api/client";
import { Dialog } from "../../parts/Dialog";
import { useDraft } from "../../parts/draft";
import { Choice, FormFoot, TextField, Tick } from "../../parts/Form";
import type { Own, OwnField } from "../../parts/own/own";
import { t } from "../../words";

const lines = (text: string) =>
  text
    .split(/[\n,]/)
    .map((l) => l.trim())
    .filter(Boolean);

/** Make or change a field; what would not fit a change is shown before it is done anyway. */
export function FieldForm({ held, own, close }: { held: OwnField | null; own: Own; close: () => void }) {
  const queries = useQueryClient();
  const {
    v: values,
    set,
    field,
    tick,
    attempt,
    refuse,
    submit,
    wrong,
    rest,
  } = useDraft({
    name: held?.name ?? "",
    type: held?.type ?? "text",
    unit: held?.unit ?? "",
    choices: held?.choices.join("\n") ?? "",
    help: held?.help ?? "",
    group: held?.group ?? "",
    required: held?.required ?? false,
    kinds: held?.kinds.join(", ") ?? "",
    position: held ? String(held.position) : "",
    many: held?.many ?? false,
    template: held?.template ?? "",
    listed: held?.listed ?? false,
  });
  const [anyway, setAnyway] = useState(false);
  const finish = async (said: string) => {
    await queries.invalidateQueries();
    toast.success(said);
    close();
  };
  const save = submit(async () => {
    const body = {
      ...values,
      choices: values.type === "choice" ? lines(values.choices) : [],
      kinds: lines(values.kinds),
      position: Number(values.position) || 0,
      version: held?.version ?? 0,
      anyway,
    };
    try {
      if (held)
        await ok(client.PUT("/api/own-fields/{number}", { params: { path: { number: held.id } }, body }));
      else await ok(client.POST("/api/own-fields", { body }));
      await finish(
        t("The field “{{name}}” is {{which}}.", {
          name: values.name,
          which: held ? t("changed") : t("made"),
        }),
      );
    } catch (refused) {
      if (refused instanceof ApiProblem && refused.problem.detail.includes("would not fit")) setAnyway(true);
      refuse(refused);
    }
  });
  const drop = async () => {
    if (!held) return;
    await attempt(async () => {
      await ok(client.DELETE("/api/own-fields/{number}", { params: { path: { number: held.id } } }));
      await finish(
        t("“{{name}}” is dropped. Its values are kept; the audit trail can bring it back.", {
          name: held.name,
        }),
      );
    });
  };
  return (
    <Dialog title={held ? t("Change “{{name}}”", { name: held.name }) : t("New field")} close={close} wide>
      <form onSubmit={save}>
        <div className="grid grid-cols-2 gap-x-3">
          {!held && <TextField label={t("Name")} {...field("name")} required />}
          <Choice
            label={t("Holds")}
            {...field("type")}
            options={Object.entries(own.types).map(([k, said]) => [k, `${k}: ${said}`] as const)}
          />
          {(values.type === "number" || values.type === "money") && (
            <TextField label={values.type === "money" ? t("Currency") : t("Unit")} {...field("unit")} />
          )}
          <TextField
            label={t("Only on these kinds")}
            {...field("kinds")}
            hint={t("Parted by commas; empty: on every kind.")}
          />
          <TextField label={t("Group")} {...field("group")} hint={t("Fields of a group stand together.")} />
          <TextField label={t("Place in its group")} type="number" {...field("position")} />
          <TextField label={t("Help")} {...field("help")} />
        </div>
        {values.type === "choice" && (
          <TextField
            label={t("Words to choose from")}
            rows={4}
            {...field("choices")}
            hint={t("One a line.")}
          />
        )}
        {values.type === "made of others" ? (
          <TextField
            label={t("Made of")}
            mono
            value={values.template}
            set={(template) => set({ template, required: false, many: false })}
            wrong={wrong("template")}
            placeholder={t("{name}, {place} ({Berth side})")}
            hint={t("Text with the names of fields in braces. It is put together whenever it is asked for.")}
          />
        ) : (
          <Tick label={t("Holds several, parted by semicolons")} {...tick("many")} />
        )}
        {wrong("many") && <p className="mb-2 text-[12.5px] font-semibold text-error">{wrong("many")}</p>}
        <Tick label={t("Shown in lists of assets")} {...tick("listed")} />
        {values.type !== "made of others" && (
          <Tick label={t("Needed of every asset that is entered by hand")} {...tick("required")} />
        )}
        {anyway && (
          <p className="tag warn mb-2 !block !whitespace-normal !px-3 !py-2 !text-[13px]">
            {t(
              "Save once more to change it anyway: those values stay in the evidence, and this can be undone.",
            )}
          </p>
        )}
        {rest}
        <FormFoot
          close={close}
          drop={held ? drop : undefined}
          save={anyway ? t("Change it anyway") : undefined}
        />
      </form>
    </Dialog>
  );
}
