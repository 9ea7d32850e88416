import { Labelled } from "../../parts/Dialog";
import { type Detail, useRowWords } from "./composing";

/** By what a row may be, the columns it may have. */
export type Known = Record<string, { name: string; label: string; type: string }[]>;

interface Props {
  known: Known;
  details: Detail[];
  set: (details: Detail[]) => void;
  wrong?: string;
}

/** Which lists of a device stand under each row, and what is told of their items. */
export function Details({ known, details, set, wrong }: Props) {
  const rowWords = useRowWords();
  const lists = Object.keys(known).filter((row) => known[row]?.some((c) => c.name.startsWith("asset.")));
  const own = (row: string) => (known[row] ?? []).filter((c) => !c.name.startsWith("asset."));
  const change = (i: number, by: Partial<Detail>) =>
    set(details.map((d, n) => (n === i ? { ...d, ...by } : d)));
  return (
    <fieldset className="mb-3">
      <legend className="mb-1 text-[13px] font-semibold">Listed under each device</legend>
      {details.map((d, i) => (
        <div key={d.row} className="mb-2 rounded border border-[var(--line-2)] p-2">
          <p className="flex items-center text-[13px]">
            {rowWords(d.row)}
            <span className="flex-1" />
            <button
              type="button"
              className="btn btn-ghost btn-xs"
              aria-label={`Take ${rowWords(d.row)} away`}
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
            aria-label={`Only ${rowWords(d.row)} that`}
            placeholder="only those that …"
            value={d.inner}
            onChange={(e) => change(i, { inner: e.target.value })}
          />
        </div>
      ))}
      <Labelled label="Add a list" wrong={wrong}>
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
            <option value="">choose</option>
            {lists
              .filter(
                (row) => !details.some((d) => d.row === row) && !row.endsWith("change") && row !== "activity",
              )
              .map((row) => (
                <option key={row} value={row}>
                  {rowWords(row)}
                </option>
              ))}
          </select>
        )}
      </Labelled>
    </fieldset>
  );
}
