import { useQuery } from "@tanstack/react-query";
import { Link, useNavigate, useSearch } from "@tanstack/react-router";
import { useState } from "react";
import { asks } from "../../api/asking";
import { client, ok, type Schemas } from "../../api/client";
import { AskLine } from "../../parts/ask/AskLine";
import { amount, capital, count } from "../../parts/format";
import { useMay } from "../../parts/me";
import { Heads, Sheet, useDone } from "../../parts/Sheet";
import type { Search } from "../../search";
import { t, word } from "../../words";
import { EnergyForm, LedgerForm, RatesForm, SupportForm } from "./MoneyForms";
import { MoneyLens } from "./MoneyLens";
import { RuleForm } from "./RuleForm";

type Rule = Schemas["DepreciationRuleOut"];

/** The money of the estate: by what one asks, the rules of depreciation behind it, and what it is reckoned with. */
export function Money({ at }: { at: string | undefined }) {
  const { q = "", written } = useSearch({ strict: false }) as Search;
  const navigate = useNavigate();
  const may = useMay("plan") && !at;
  const [form, setForm] = useState<"" | "ledger" | "rates" | "energy" | "support">("");
  const ask = (filter: string) =>
    void navigate({
      to: "/lifecycle",
      search: ((before: Search) => ({ ...before, q: filter || undefined })) as never,
    });
  return (
    <>
      <AskLine value={q} error={null} submit={ask} />
      <MoneyLens filter={q} at={at} written={written} />
      <Rules at={at} may={may} />
      {may && (
        <p className="flex flex-wrap gap-2 pt-3">
          <button type="button" className="btn btn-sm" onClick={() => setForm("ledger")}>
            {t("Currency and year")}
          </button>
          <button type="button" className="btn btn-sm" onClick={() => setForm("rates")}>
            {t("Rates of exchange")}
          </button>
          <button type="button" className="btn btn-sm" onClick={() => setForm("energy")}>
            {t("Energy")}
          </button>
          <button type="button" className="btn btn-sm" onClick={() => setForm("support")}>
            {t("Ends of support")}
          </button>
        </p>
      )}
      {form === "ledger" && <LedgerForm close={() => setForm("")} />}
      {form === "rates" && <RatesForm close={() => setForm("")} />}
      {form === "energy" && <EnergyForm close={() => setForm("")} />}
      {form === "support" && <SupportForm close={() => setForm("")} />}
    </>
  );
}

function Rules({ at, may }: { at: string | undefined; may: boolean }) {
  const done = useDone("valuation");
  const [changing, setChanging] = useState<Rule | "new" | null>(null);
  const asked = useQuery(asks("/api/valuation/rules", { params: { query: { as_of: at } } }));
  const told = asked.data;
  if (!told) return null;
  return (
    <Sheet
      id="rules"
      title={t("How it is written down")}
      hint={t("the first rule an asset answers holds for it")}
      actions={
        may ? (
          <button type="button" className="btn btn-sm" onClick={() => setChanging("new")}>
            {t("New rule")}
          </button>
        ) : undefined
      }
    >
      {told.rules.length > 0 ? (
        <table className="grid-table">
          <Heads
            names={[
              t("Rule"),
              t("For"),
              t("Life"),
              t("Method"),
              t("Devices"),
              t("Cost"),
              t("Book value"),
              "",
            ]}
            numbers={[t("Devices"), t("Cost"), t("Book value")]}
          />
          <tbody>
            {told.rules.map((r, n) => (
              <tr key={r.id}>
                <td className="font-semibold">{r.name}</td>
                <td className="mono text-[12.5px]">{r.filter || t("every asset")}</td>
                <td className="whitespace-nowrap">
                  {t("{{months}} months", { months: r.months })}
                  {r.residual !== "0" && t(", {{residual}} % left", { residual: r.residual })}
                  {r.changes.length > 0 && (
                    <span className="tag note ml-2">{t("changed in mid-course")}</span>
                  )}
                </td>
                <td className="dim">
                  {capital(word(r.method))}, {word(r.convention)}
                </td>
                <td className="num mono">
                  <Link
                    to="/lifecycle"
                    search={{ at, tab: "money", written: r.name } as never}
                    className="link-quiet"
                  >
                    {count(r.devices)}
                  </Link>
                </td>
                <td className="num mono">{amount(r.cost)}</td>
                <td className="num mono">{amount(r.book)}</td>
                <td className="num whitespace-nowrap">
                  {may && n > 0 && (
                    <button
                      type="button"
                      className="btn btn-ghost btn-xs"
                      aria-label={t("Move {{name}} up", { name: r.name })}
                      onClick={() =>
                        void done(() =>
                          ok(
                            client.POST("/api/valuation/rules/{number}/up", {
                              params: { path: { number: r.id } },
                            }),
                          ),
                        )
                      }
                    >
                      ↑
                    </button>
                  )}
                  {may && (
                    <button
                      type="button"
                      className="link-quiet font-semibold"
                      aria-label={t("Change {{name}}", { name: r.name })}
                      onClick={() => setChanging(r)}
                    >
                      {t("Change")}
                    </button>
                  )}
                </td>
              </tr>
            ))}
          </tbody>
        </table>
      ) : (
        <p className="dim px-3.5 pb-3 text-[13px]">
          {t(
            "No rule yet, so nothing has a book value. A rule says for which assets, over how many months, by which method.",
          )}
        </p>
      )}
      {changing && <RuleForm held={changing === "new" ? null : changing} close={() => setChanging(null)} />}
    </Sheet>
  );
}
