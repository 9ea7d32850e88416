import { useState } from "react";
import { client, ok, type Schemas } from "../../api/client";
import { Dialog } from "../../parts/Dialog";
import { FormFoot, TextField } from "../../parts/Form";
import { useSaving } from "../../parts/saving";
import { DepreciationFields } from "./TermsForm";

/** A rule of depreciation: for which assets, over how long, by which method, and changes of that in mid-course. */
export function RuleForm({
  held,
  close,
}: {
  held: Schemas["DepreciationRuleOut"] | null;
  close: () => void;
}) {
  const [v, setValues] = useState({
    name: held?.name ?? "",
    filter: held?.filter ?? "",
    months: String(held?.months ?? 36),
    residual: held?.residual ?? "0",
    method: held?.method ?? "straight line",
    convention: held?.convention ?? "full month",
    factor: String(held?.factor ?? 200),
  });
  const [changes, setChanges] = useState(
    (held?.changes ?? []).map((c) => ({ ...c, months: String(c.months) })),
  );
  const { save, wrong, rest } = useSaving("valuation", close);
  const set = (change: Partial<typeof v>) => setValues({ ...v, ...change });
  const submit = save(async () => {
    const body = {
      ...v,
      months: Number(v.months),
      factor: Number(v.factor),
      changes: changes.map((c) => ({ ...c, months: Number(c.months) })),
      version: held?.version ?? 0,
    };
    if (held)
      await ok(client.PUT("/api/valuation/rules/{number}", { params: { path: { number: held.id } }, body }));
    else await ok(client.POST("/api/valuation/rules", { body }));
    return `“${v.name}” is ${held ? "changed" : "made"}.`;
  });
  const drop = save(async () => {
    if (held)
      await ok(client.DELETE("/api/valuation/rules/{number}", { params: { path: { number: held.id } } }));
    return `“${v.name}” is dropped.`;
  });
  return (
    <Dialog title={held ? `Change ${held.name}` : "New rule of depreciation"} close={close}>
      <form onSubmit={submit}>
        <TextField label="Name" value={v.name} set={(name) => set({ name })} wrong={wrong("name")} required />
        <TextField
          label="For assets that answer"
          mono
          value={v.filter}
          set={(filter) => set({ filter })}
          wrong={wrong("filter")}
          placeholder="kind in (laptop, workstation)"
          hint="Empty: every asset."
        />
        <DepreciationFields v={v} set={set} wrong={wrong} residual="Left in the end, percent of the cost" />
        {changes.map((c, n) => (
          <fieldset key={`${n}`} className="mb-2 rounded border border-base-300 px-3 pt-1">
            <legend className="dim px-1 text-[12.5px]">From a day on</legend>
            <div className="grid gap-x-3 sm:grid-cols-3">
              {(
                [
                  ["day", "From", "date"],
                  ["months", "Months in all", "number"],
                  ["residual", "Left, percent", "text"],
                ] as const
              ).map(([key, label, type]) => (
                <TextField
                  key={key}
                  label={label}
                  type={type}
                  value={c[key]}
                  set={(value) => setChanges(changes.map((x, m) => (m === n ? { ...x, [key]: value } : x)))}
                />
              ))}
            </div>
          </fieldset>
        ))}
        {wrong("changes") && (
          <p role="alert" className="mb-2 text-[12.5px] font-semibold text-error">
            {wrong("changes")}
          </p>
        )}
        <button
          type="button"
          className="btn btn-sm mb-1"
          onClick={() => setChanges([...changes, { day: "", months: v.months, residual: "0" }])}
        >
          Change it from a day on
        </button>
        <p className="faint pb-2 text-[12px]">
          What is written down by then stays; what is left is spread over the rest of the new life.
        </p>
        {rest}
        <FormFoot close={close} drop={held ? () => void drop() : undefined} />
      </form>
    </Dialog>
  );
}
