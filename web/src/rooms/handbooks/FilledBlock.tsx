import { plural } from "../../parts/format";
import { t } from "../../words";
import type { Filled } from "./writing";

/** Rows that are shown of a block while one writes; an issue shows all. */
export function FilledBlock({ filled, most }: { filled: Filled; most?: number }) {
  if (filled.trouble) return <p className="text-[13px] text-error">{filled.trouble}</p>;
  if (filled.shape === "figure")
    return (
      <p>
        <b className="text-[22px]">{filled.figure}</b> {filled.rows[0]?.[0]}
      </p>
    );
  const rows = most === undefined ? filled.rows : filled.rows.slice(0, most);
  const left = filled.rows.length - rows.length + filled.cut;
  if (!filled.rows.length) return <p className="dim text-[13px]">{t("None.")}</p>;
  return (
    <div className="overflow-x-auto">
      <table className="grid-table w-full text-[13px]">
        {filled.shape === "table" && (
          <thead>
            <tr>
              {filled.columns.map((c) => (
                <th key={c}>{c}</th>
              ))}
            </tr>
          </thead>
        )}
        <tbody>
          {rows.map((row) => (
            <tr key={row.join("|")}>
              {row.map((cell, n) => (
                <td key={filled.columns[n] ?? String(n)}>{cell}</td>
              ))}
            </tr>
          ))}
        </tbody>
      </table>
      {left > 0 && (
        <p className="dim pt-1 text-[12px]">{t("and {{rows}} more", { rows: plural(left, "row") })}</p>
      )}
    </div>
  );
}
