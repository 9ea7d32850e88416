import { useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { toast } from "sonner";
import { ApiProblem, client, ok } from "../../api/client";
import { Dialog } from "../../parts/Dialog";
import { Choice, FormFoot, TextField, Tick, useFaults } from "../../parts/Form";
import type { Own, OwnField } from "../../parts/own/own";

const lines = (text: string) =>
  text
    .split(/[\n,]/)
    .map((l) => l.trim())
    .filter(Boolean);

/** Make or change a field; what would not fit a change is shown before it is done anyway. */
export function FieldForm({ held, own, close }: { held: OwnField | null; own: Own; close: () => void }) {
  const queries = useQueryClient();
  const [values, setValues] = useState({
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
  const { setError, wrong, rest } = useFaults();
  const set = (change: Partial<typeof values>) => setValues({ ...values, ...change });
  const finish = async (said: string) => {
    await queries.invalidateQueries();
    toast.success(said);
    close();
  };
  const save = async (event: React.FormEvent) => {
    event.preventDefault();
    setError(null);
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
      await finish(`The field “${values.name}” is ${held ? "changed" : "made"}.`);
    } catch (refused) {
      if (refused instanceof ApiProblem && refused.problem.detail.includes("would not fit")) setAnyway(true);
      setError(refused);
    }
  };
  const drop = async () => {
    if (!held) return;
    try {
      await ok(client.DELETE("/api/own-fields/{number}", { params: { path: { number: held.id } } }));
      await finish(`“${held.name}” is dropped. Its values are kept; the audit trail can bring it back.`);
    } catch (refused) {
      setError(refused);
    }
  };
  return (
    <Dialog title={held ? `Change “${held.name}”` : "New field"} close={close} wide>
      <form onSubmit={save}>
        <div className="grid grid-cols-2 gap-x-3">
          {!held && (
            <TextField
              label="Name"
              value={values.name}
              set={(name) => set({ name })}
              required
              wrong={wrong("name")}
            />
          )}
          <Choice
            label="Holds"
            value={values.type}
            set={(type) => set({ type })}
            options={Object.entries(own.types).map(([k, said]) => [k, `${k}: ${said}`] as const)}
            wrong={wrong("type")}
          />
          {(values.type === "number" || values.type === "money") && (
            <TextField
              label={values.type === "money" ? "Currency" : "Unit"}
              value={values.unit}
              set={(unit) => set({ unit })}
              wrong={wrong("unit")}
            />
          )}
          <TextField
            label="Only on these kinds"
            value={values.kinds}
            set={(kinds) => set({ kinds })}
            hint="Parted by commas; empty: on every kind."
            wrong={wrong("kinds")}
          />
          <TextField
            label="Group"
            value={values.group}
            set={(group) => set({ group })}
            hint="Fields of a group stand together."
          />
          <TextField
            label="Place in its group"
            type="number"
            value={values.position}
            set={(position) => set({ position })}
          />
          <TextField label="Help" value={values.help} set={(help) => set({ help })} />
        </div>
        {values.type === "choice" && (
          <TextField
            label="Words to choose from"
            rows={4}
            value={values.choices}
            set={(choices) => set({ choices })}
            hint="One a line."
            wrong={wrong("choices")}
          />
        )}
        {values.type === "made of others" ? (
          <TextField
            label="Made of"
            mono
            value={values.template}
            set={(template) => set({ template, required: false, many: false })}
            wrong={wrong("template")}
            placeholder="{name}, {place} ({Berth side})"
            hint="Text with the names of fields in braces. It is put together whenever it is asked for."
          />
        ) : (
          <Tick label="Holds several, parted by semicolons" on={values.many} set={(many) => set({ many })} />
        )}
        {wrong("many") && <p className="mb-2 text-[12.5px] font-semibold text-error">{wrong("many")}</p>}
        <Tick label="Shown in lists of assets" on={values.listed} set={(listed) => set({ listed })} />
        {values.type !== "made of others" && (
          <Tick
            label="Needed of every asset that is entered by hand"
            on={values.required}
            set={(required) => set({ required })}
          />
        )}
        {anyway && (
          <p className="tag warn mb-2 !block !whitespace-normal !px-3 !py-2 !text-[13px]">
            Save once more to change it anyway: those values stay in the evidence, and this can be undone.
          </p>
        )}
        {rest}
        <FormFoot
          close={close}
          drop={held ? drop : undefined}
          save={anyway ? "Change it anyway" : undefined}
        />
      </form>
    </Dialog>
  );
}
