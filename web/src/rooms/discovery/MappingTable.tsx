import type { Schemas } from "../../api/client";
import { t } from "../../words";

export type Fields = Record<string, { from: string; unit?: string }>;

interface Props {
  targets: Schemas["TargetOut"][];
  units: string[];
  fields: Fields;
  set: (fields: Fields) => void;
  wrong?: string;
  /** Columns to choose from; without them the place is typed as a path. */
  columns?: string[];
}

/** Which column or path of another system fills which field here, and in which unit. */
export function MappingTable({ targets, units, fields, set, wrong, columns }: Props) {
  const change = (name: string, part: { from: string; unit?: string }) => {
    const { [name]: _, ...others } = fields;
    set(part.from ? { ...others, [name]: part } : others);
  };
  const used = targets.filter((target) => fields[target.name]);
  const free = targets.filter((target) => !fields[target.name]);
  return (
    <fieldset>
      <legend className="mb-1 text-[13px] font-semibold">{t("Fields")}</legend>
      <table className="w-full text-[13px]">
        <tbody>
          {used.map((target) => (
            <tr key={target.name}>
              <th scope="row" className="w-[32%] py-0.5 pr-2 text-left font-normal">
                {target.label}
              </th>
              <td className="py-0.5 pr-2">
                {columns ? (
                  <select
                    aria-label={t("Column for {{label}}", { label: target.label })}
                    className="select select-sm w-full"
                    value={fields[target.name]?.from}
                    onChange={(e) => change(target.name, { ...fields[target.name], from: e.target.value })}
                  >
                    <option value="">{t("not taken")}</option>
                    {columns.map((c) => (
                      <option key={c}>{c}</option>
                    ))}
                  </select>
                ) : (
                  <input
                    aria-label={t("Path for {{label}}", { label: target.label })}
                    className="input input-sm mono w-full"
                    value={fields[target.name]?.from}
                    onChange={(e) => change(target.name, { ...fields[target.name], from: e.target.value })}
                  />
                )}
              </td>
              <td className="w-36 py-0.5">
                {target.type === "memory" && (
                  <select
                    aria-label={t("Unit of {{label}}", { label: target.label })}
                    className="select select-sm w-full"
                    value={fields[target.name]?.unit ?? ""}
                    onChange={(e) =>
                      change(target.name, { from: fields[target.name]?.from ?? "", unit: e.target.value })
                    }
                  >
                    <option value="">{t("unit in the value")}</option>
                    {units.map((u) => (
                      <option key={u}>{u}</option>
                    ))}
                  </select>
                )}
                {target.type === "moment" && (
                  <select
                    aria-label={t("How {{label}} is written", { label: target.label })}
                    className="select select-sm w-full"
                    value={fields[target.name]?.unit ?? ""}
                    onChange={(e) =>
                      change(target.name, { from: fields[target.name]?.from ?? "", unit: e.target.value })
                    }
                  >
                    <option value="">{t("as it shows")}</option>
                    <option value="day first">{t("day first")}</option>
                    <option value="month first">{t("month first")}</option>
                  </select>
                )}
              </td>
            </tr>
          ))}
        </tbody>
      </table>
      <select
        aria-label={t("Take one more field")}
        className="select select-sm mt-1"
        value=""
        onChange={(e) => change(e.target.value, { from: columns?.[0] ?? e.target.value })}
      >
        <option value="">{t("take one more field …")}</option>
        {free.map((target) => (
          <option key={target.name} value={target.name}>
            {target.label}
          </option>
        ))}
      </select>
      {wrong && (
        <p role="alert" className="mt-1 text-[12.5px] font-semibold text-error">
          {wrong}
        </p>
      )}
    </fieldset>
  );
}
