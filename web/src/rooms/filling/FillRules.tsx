import { useQuery, useQueryClient } from "@tanstack/react-query";
import { Link } from "@tanstack/react-router";
import { useState } from "react";
import { asks } from "../../api/asking";
import { client, ok } from "../../api/client";
import { EstateNav } from "../../parts/EstateNav";
import { plural } from "../../parts/format";
import { useMay } from "../../parts/me";
import { Empty, Unanswered } from "../../parts/Problem";
import { Heads, Sheet, useDone } from "../../parts/Sheet";
import { t } from "../../words";
import { RuleForm } from "./RuleForm";
import { type FillRule, words } from "./words";

/** Fill rules in their order: what they read, what they fill, and whether they are in force. */
export function FillRules() {
  const may = useMay("plan");
  const queries = useQueryClient();
  const done = useDone("fill-rules");
  const [open, setOpen] = useState<FillRule | "new" | null>(null);
  const asked = useQuery(asks("/api/fill-rules"));
  if (asked.error || !asked.data) return <Unanswered asked={asked} what={t("Reading the rules …")} />;
  const rules = asked.data;
  const force = (r: FillRule, on: boolean) =>
    done(
      async () => {
        await ok(
          client.POST("/api/fill-rules/{number}/force", { params: { path: { number: r.id } }, body: { on } }),
        );
        await queries.invalidateQueries();
      },
      on
        ? t("“{{name}}” is in force.", { name: r.name })
        : t("“{{name}}” is out of force; its values are taken back.", { name: r.name }),
    );
  const move = (at: number, to: number) => {
    const order = rules.map((r) => r.id);
    order.splice(to, 0, ...order.splice(at, 1));
    return done(() => ok(client.PUT("/api/fill-rules", { body: { order } })));
  };
  return (
    <div className="mx-auto w-full max-w-[1280px] px-4 pb-10">
      <EstateNav />
      <div className="flex flex-wrap items-baseline gap-x-4 gap-y-1 pt-1 pb-2">
        <h1>{t("Fill rules")}</h1>
        <span className="dim text-[13.5px]">
          {t("when an asset is like this, fill that field from this; what a person says stands")}
        </span>
        <span className="flex-1" />
        {may && (
          <button type="button" className="btn btn-primary btn-sm" onClick={() => setOpen("new")}>
            {t("New rule")}
          </button>
        )}
      </div>
      {rules.length === 0 ? (
        <Empty title={t("No rule fills anything yet.")}>
          {t(
            "A place from the part of a name before the dash; an owner from who is signed in on most days; a department from the person. Each is rehearsed before it is in force.",
          )}
        </Empty>
      ) : (
        <Sheet
          id="rules"
          title={t("In their order")}
          hint={t("of those that fill one field of an asset, the first does")}
          className=""
        >
          <table className="grid-table">
            <Heads
              names={[t("Rule"), t("Of"), t("Fills"), t("From"), t("Stands on"), ""]}
              numbers={[t("Stands on")]}
            />
            <tbody>
              {rules.map((r, at) => (
                <tr key={r.id}>
                  <td>
                    <b className="font-semibold">{r.name}</b>
                    <span className="block">
                      <span className={`tag ${r.in_force_at ? "ok" : ""}`}>
                        {r.in_force_at ? t("in force") : t("not in force")}
                      </span>
                    </span>
                  </td>
                  <td className="mono break-all">{r.filter || t("every asset")}</td>
                  <td>{words(r.fills)}</td>
                  <td className="dim">
                    {r.formula ? <span className="mono">{r.formula}</span> : words(r.reads)}
                    {r.pattern && <span className="mono block break-all">{r.pattern}</span>}
                    {Object.keys(r.table).length > 0 && (
                      <span className="faint block">
                        {t("by a table of {{rows}}", { rows: plural(Object.keys(r.table).length, "row") })}
                      </span>
                    )}
                  </td>
                  <td className="num">
                    <Link
                      to="/estate"
                      search={{ q: r.stands }}
                      className="link-quiet"
                      title={t("The assets its word stands on")}
                    >
                      {r.filled}
                    </Link>
                  </td>
                  <td className="text-right whitespace-nowrap">
                    {may && (
                      <span className="inline-flex gap-3">
                        {at > 0 && (
                          <button
                            type="button"
                            className="link-quiet"
                            aria-label={t("Move {{name}} up", { name: r.name })}
                            onClick={() => void move(at, at - 1)}
                          >
                            ↑
                          </button>
                        )}
                        <button type="button" className="link-quiet font-semibold" onClick={() => setOpen(r)}>
                          {t("Rehearse or change")}
                        </button>
                        <button
                          type="button"
                          className="link-quiet font-semibold"
                          onClick={() => void force(r, !r.in_force_at)}
                        >
                          {r.in_force_at ? t("Take out of force") : t("Put in force")}
                        </button>
                      </span>
                    )}
                  </td>
                </tr>
              ))}
            </tbody>
          </table>
        </Sheet>
      )}
      {open && <RuleForm held={open === "new" ? null : open} close={() => setOpen(null)} />}
    </div>
  );
}
