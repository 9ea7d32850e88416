import { t } from "../../words";
import { Labelled } from "../Dialog";
import { entered, type OwnField } from "./own";

interface Props {
  fields: OwnField[];
  values: Record<string, string>;
  set: (values: Record<string, string>) => void;
  wrong: (field: string) => string | undefined;
}

/** Inputs for fields of the company's own, each as its type wants it. */
export function OwnInputs({ fields: all, values, set, wrong }: Props) {
  const fields = entered(all);
  const groups = [...new Set(fields.map((f) => f.group))];
  return groups.map((group) => (
    <fieldset key={group} className="mt-1">
      {group && <legend className="dim pb-1 text-[12px] font-semibold">{group}</legend>}
      <div className="grid grid-cols-2 gap-x-3">
        {fields
          .filter((f) => f.group === group)
          .map((f) => (
            <Labelled
              key={f.name}
              label={`${f.name}${f.unit ? ` (${f.unit})` : ""}${f.required ? ", needed" : ""}`}
              hint={
                [f.help, f.many && t("Several, parted by semicolons.")].filter(Boolean).join(" ") || undefined
              }
              wrong={wrong(`own:${f.name}`)}
            >
              {(id) => (
                <One
                  id={id}
                  field={f}
                  value={values[f.name] ?? ""}
                  set={(v) => set({ ...values, [f.name]: v })}
                />
              )}
            </Labelled>
          ))}
      </div>
    </fieldset>
  ));
}

function One(props: { id: string; field: OwnField; value: string; set: (value: string) => void }) {
  const { id, field, value, set } = props;
  const words = field.type === "yes/no" ? ["yes", "no"] : field.choices;
  if (words.length > 0 && !field.many)
    return (
      <select id={id} className="select w-full" value={value} onChange={(e) => set(e.target.value)}>
        <option value="">{t("not told")}</option>
        {words.map((c) => (
          <option key={c}>{c}</option>
        ))}
      </select>
    );
  if (field.type === "long text")
    return (
      <textarea
        id={id}
        rows={3}
        className="textarea w-full"
        value={value}
        onChange={(e) => set(e.target.value)}
      />
    );
  return (
    <input
      id={id}
      className="input w-full"
      type={field.type === "date" && !field.many ? "date" : "text"}
      placeholder={field.type === "address block" ? "10.60.4.9/24, gateway 10.60.4.1, name eth0" : undefined}
      inputMode={field.type === "number" || field.type === "money" ? "decimal" : undefined}
      value={value}
      onChange={(e) => set(e.target.value)}
    />
  );
}
