import { Labelled } from "../../parts/Dialog";
import { t } from "../../words";
import { type Detail, type RowKind, useRowWords } from "./composing";

interface Props {
  known: RowKind[];
  details: Detail[];
  set: (details: Detail[]) => void;
  wrong?: string;
}

/** Which lists of a device stand under each row, and what is told of their items. */
export function Details({ known, details, set, wrong }: Props) {
  const rowWords = useRowWords();
  const ofAsset = (c: { name: string }) => c.name.startsWith("asset.");
  const lists = known.filter((k) => !k.over_days && k.columns.some(ofAsset));
  const own = (row: string) => (known.find((k) => k.name === row)?.columns ?? []).filter((c) => !ofAsset(c));
  const change = (i: number, by: Partial<Detail>) =>
    set(details.map((d, n) => (n === i ? { ...d, ...by } : d)));
  return (
    <fieldset className="mb-3">
      <legend className="mb-1 text-[13px] font-semibold">{t("Listed under each device")}</legend>
      {details.map((d, i) => (
        <div key={d.row} className="mb-2 rounded border border-[var(--line-2)] p-2">
          <p className="flex items-center text-[13px]">
            {rowWords(d.row)}
            <span className="flex-1" />
            <button
              type="button"
              className="btn btn-ghost btn-xs"
              aria-label={t("Take {{row}} away", { row: rowWords(d.row) })}
              onClick={() => set(details.filter((_, n) => n !== i))}
            >
              −
            </button>
          </p>
          <div className="flex flex-wrap gap-x-3 gap-y-1 py-1">
            {own(d.row).map((c) => (
              <label key={c.name} className="flex items-center gap-1 text-[12.5px]">
                <input
                  type="checkbox"
                  className="checkbox checkbox-xs"
                  checked={d.columns.includes(c.name)}
                  onChange={(e) =>
                    change(i, {
                      columns: e.target.checked
                        ? [...d.columns, c.name]
                        : d.columns.filter((n) => n !== c.name),
                    })
                  }
                />
                {c.label}
              </label>
            ))}
          </div>
          <input
            className="input input-sm mono w-full"
            aria-label={t("Only {{row}} that", { row: rowWords(d.row) })}
            placeholder={t("only those that …")}
            value={d.inner}
            onChange={(e) => change(i, { inner: e.target.value })}
          />
        </div>
      ))}
      <Labelled label={t("Add a list")} wrong={wrong}>
        {(id) => (
          <select
            id={id}
            className="select select-sm w-full"
            value=""
            onChange={(e) =>
              set([
                ...details,
                {
                  row: e.target.value,
                  columns: own(e.target.value)
                    .slice(0, 3)
                    .map((c) => c.name),
                  inner: "",
                },
              ])
            }
          >
            <option value="">{t("choose")}</option>
            {lists
              .filter((k) => !details.some((d) => d.row === k.name))
              .map((k) => (
                <option key={k.name} value={k.name}>
                  {k.one}
                </option>
              ))}
          </select>
        )}
      </Labelled>
    </fieldset>
  );
}
