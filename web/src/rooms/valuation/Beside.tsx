import { useQuery } from "@tanstack/react-query";
import { asks } from "../../api/asking";
import { amount, count } from "../../parts/format";
import { t } from "../../words";

/** The scenarios kept, side by side: what each spends by quarter, and what still waits. */
export function Beside({ at }: { at: string | undefined }) {
  const asked = useQuery(asks("/api/valuation/scenarios/beside", { params: { query: { as_of: at } } }));
  const rows = asked.data;
  if (!rows?.length) return null;
  const longest = rows.reduce((a, b) => (b.quarters.length > a.quarters.length ? b : a)).quarters;
  return (
    <details className="sheet mb-3 overflow-x-auto" open={rows.length < 4}>
      <summary className="cursor-pointer px-3.5 py-2 text-[13px] font-semibold">
        {t("Scenarios side by side")}
      </summary>
      <table className="grid-table">
        <thead>
          <tr>
            <th>{t("Scenario")}</th>
            <th className="num">{t("Replaces")}</th>
            <th className="num">{t("Costs")}</th>
            {longest.map((q) => (
              <th key={q.name} className="num whitespace-nowrap">
                {q.name}
              </th>
            ))}
            <th className="num">{t("Waiting then")}</th>
          </tr>
        </thead>
        <tbody>
          {rows.map((s) => (
            <tr key={s.id}>
              <td className="font-semibold">{s.name}</td>
              <td className="num mono">{count(s.planned)}</td>
              <td className="num mono">{amount(s.cost)}</td>
              {longest.map((q, n) => (
                <td key={q.name} className="num mono">
                  {s.quarters[n] ? amount(s.quarters[n]?.cost.split(".")[0] ?? "") : ""}
                </td>
              ))}
              <td className="num mono">{s.quarters.at(-1)?.waiting || ""}</td>
            </tr>
          ))}
        </tbody>
      </table>
    </details>
  );
}
