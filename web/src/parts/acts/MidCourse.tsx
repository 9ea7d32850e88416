import { t } from "../../words";
import { TextField } from "../Form";

/** Changes in mid-course, each from a day on; `fields` says what a change has, in its order, with its type of input. */
export function MidCourse<Row extends Record<string, string>>(props: {
  legend: string;
  more: string;
  fields: readonly (readonly [keyof Row & string, string, "date" | "number" | "text"])[];
  rows: Row[];
  set: (rows: Row[]) => void;
  begun: Row;
  wrong?: string;
}) {
  const { legend, more, fields, rows, set, begun, wrong } = props;
  const typed = (at: number, key: string, value: string) =>
    set(rows.map((row, n) => (n === at ? { ...row, [key]: value } : row)));
  return (
    <>
      {rows.map((row, at) => (
        <fieldset key={`${at}`} className="mb-2 rounded border border-base-300 px-3 pt-1">
          <legend className="dim px-1 text-[12.5px]">{legend}</legend>
          <div className="grid gap-x-3 sm:grid-cols-3">
            {fields.map(([key, label, type]) => (
              <TextField
                key={key}
                label={label}
                type={type}
                value={row[key] ?? ""}
                set={(value) => typed(at, key, value)}
              />
            ))}
          </div>
          <button
            type="button"
            className="link-quiet mb-2 text-[12.5px]"
            onClick={() => set(rows.filter((_, n) => n !== at))}
          >
            {t("Take this change away")}
          </button>
        </fieldset>
      ))}
      {wrong && (
        <p role="alert" className="mb-2 text-[12.5px] font-semibold text-error">
          {wrong}
        </p>
      )}
      <button type="button" className="btn btn-sm mb-2" onClick={() => set([...rows, begun])}>
        {more}
      </button>
    </>
  );
}
