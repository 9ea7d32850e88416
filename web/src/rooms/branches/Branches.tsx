import { useQuery } from "@tanstack/react-query";
import { Link } from "@tanstack/react-router";
import { useState } from "react";
import { asks } from "../../api/asking";
import type { Schemas } from "../../api/client";
import { useDial } from "../../parts/dial";
import { EstateNav } from "../../parts/EstateNav";
import { count } from "../../parts/format";
import { useMay } from "../../parts/me";
import { Unanswered } from "../../parts/Problem";
import { Heads, Sheet } from "../../parts/Sheet";
import { useStanding } from "../../parts/standing";
import { t } from "../../words";
import { type Field, PlaceDialog } from "./PlaceDialog";

type Branch = Schemas["BranchOut"];

const SHEETS: [Field, string, string, string][] = [
  ["place", t("Places"), t("what stands where"), "place"],
  ["department", t("Departments"), t("what belongs to whom"), "department"],
  ["person", t("People"), t("who holds devices, and whom they work for"), "person"],
];

/** Places, departments and people as trees: what lies under what, and how much of the estate each branch holds. */
export function Branches() {
  const { at } = useDial();
  const may = useMay("plan") && !at;
  const { branch, stand } = useStanding();
  const [placing, setPlacing] = useState<{ field: Field; branch: Branch | null } | null>(null);
  const found = useQuery(asks("/api/branches", { params: { query: { as_of: at } } }));
  if (found.error || !found.data)
    return <Unanswered asked={found} what={t("Reading places and departments …")} />;
  const all = found.data;
  return (
    <div className="mx-auto w-full max-w-[1280px] px-4 pb-10">
      <EstateNav />
      <div className="flex flex-wrap items-baseline gap-x-4 gap-y-1 pt-1 pb-2">
        <h1>{t("Places and departments")}</h1>
        <span className="dim text-[13.5px]">
          {t("put them under each other, and stand in a branch to see every room narrowed to it")}
        </span>
      </div>
      <div className="grid items-start gap-3 lg:grid-cols-2">
        {SHEETS.map(([field, title, hint, one]) => {
          const mine = all.filter((b) => b.field === field);
          return (
            <Sheet
              key={field}
              id={field}
              title={title}
              hint={hint}
              className={field === "person" ? "lg:col-span-2" : ""}
              actions={
                may && (
                  <button
                    type="button"
                    className="btn btn-sm"
                    onClick={() => setPlacing({ field, branch: null })}
                  >
                    {t("New {{one}} in the tree", { one })}
                  </button>
                )
              }
            >
              {mine.length === 0 ? (
                <p className="dim px-3.5 pb-3 text-[13px]">{t("No device says a {{one}} yet.", { one })}</p>
              ) : (
                <div className={field === "person" ? "max-h-[26rem] overflow-y-auto" : ""}>
                  <table className="grid-table">
                    <Heads
                      names={[t("Name"), t("Itself"), t("Whole branch"), ""]}
                      numbers={[t("Itself"), t("Whole branch")]}
                    />
                    <tbody>
                      {mine.map((b) => (
                        <tr key={b.name}>
                          <td style={{ paddingLeft: `${14 + b.depth * 18}px` }}>
                            {b.depth > 0 && <span className="faint">└ </span>}
                            {b.name}
                          </td>
                          <td className="num">
                            {b.here ? (
                              count(b.here)
                            ) : (
                              <>
                                <span aria-hidden="true">–</span>
                                <span className="sr-only">{t("none")}</span>
                              </>
                            )}
                          </td>
                          <td className="num">
                            <Link to="/estate" search={{ at, q: b.filter, in: "" }} className="link-quiet">
                              {count(b.within)}
                            </Link>
                          </td>
                          <td className="whitespace-nowrap text-right">
                            <button
                              type="button"
                              className="btn btn-xs"
                              aria-pressed={branch === `${field}:${b.name}`}
                              aria-label={t("Stand here: {{name}}", { name: b.name })}
                              onClick={() => stand(`${field}:${b.name}`)}
                            >
                              {t("Stand here")}
                            </button>{" "}
                            {may && (
                              <button
                                type="button"
                                className="btn btn-xs"
                                aria-label={t("Move {{name}}", { name: b.name })}
                                onClick={() => setPlacing({ field, branch: b })}
                              >
                                {t("Move")}
                              </button>
                            )}
                          </td>
                        </tr>
                      ))}
                    </tbody>
                  </table>
                </div>
              )}
            </Sheet>
          );
        })}
      </div>
      {placing && (
        <PlaceDialog
          field={placing.field}
          branch={placing.branch}
          names={all.filter((b) => b.field === placing.field).map((b) => b.name)}
          close={() => setPlacing(null)}
        />
      )}
    </div>
  );
}
