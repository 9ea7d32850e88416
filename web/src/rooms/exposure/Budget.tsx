import { useQuery } from "@tanstack/react-query";
import { useEffect, useState } from "react";
import { asks } from "../../api/asking";
import { plural } from "../../parts/format";
import { GRADES } from "../../parts/Graded";
import { t, word } from "../../words";
import type { Asked } from "./asked";

interface Props extends Asked {
  most: number;
  /** Told which changes are the best so many. */
  found: (keys: string[]) => void;
}

/** The best so many changes, proved: what they end, and what the plain order ends with as many. */
export function Budget({ filter, at, known, most, found }: Props) {
  const [typed, setTyped] = useState("");
  const number = Number(typed);
  const sound = Number.isInteger(number) && number >= 1 && number <= 200;
  const asked = useQuery({
    ...asks("/api/exposure/first/budget", { params: { query: { filter, as_of: at, known, number } } }),
    enabled: sound,
  });
  const told = sound ? asked.data : undefined;
  useEffect(() => found(told?.keys ?? []), [told, found]);
  const sum = (ends: Record<string, number>) => Object.values(ends).reduce((a, b) => a + b, 0);
  const grades = (ends: Record<string, number>) =>
    GRADES.filter((g) => ends[g])
      .map((g) => `${ends[g]} ${word(g)}`)
      .join(", ");
  return (
    <section className="sheet mt-3 px-4 py-3" aria-label={t("For a budget")}>
      <label className="flex flex-wrap items-center gap-2 text-[13.5px]">
        {t("If there is time for only")}
        <input
          type="number"
          min={1}
          max={Math.min(200, Math.max(1, most))}
          className="input input-sm w-20"
          value={typed}
          aria-label={t("How many changes there is time for")}
          onChange={(e) => setTyped(e.target.value)}
        />
        {t("{{changes}}, which end the most?", {
          changes: plural(sound ? number : 2, "change").replace(/^\d+ /, ""),
        })}
      </label>
      {typed !== "" && !sound && (
        <p className="pt-1 text-[13px] text-error">{t("A whole number from 1 to 200, please.")}</p>
      )}
      {asked.error && sound && <p className="pt-1 text-[13px] text-error">{String(asked.error)}</p>}
      {told && (
        <p className="pt-1.5 text-[13px]" aria-live="polite">
          {t("The best {{keys}} end", { keys: told.keys.length })} <b>{sum(told.ends)}</b>{" "}
          {t(
            "of {{open}} findings ({{ends}}); they are marked above, and it is proved that no others end more of the gravest.",
            { open: told.open, ends: grades(told.ends) || t("none") },
          )}{" "}
          <span className="dim">
            {sum(told.in_order) === sum(told.ends) && grades(told.in_order) === grades(told.ends)
              ? t("The plain order comes to the same.")
              : t("The first {{number}} of the plain order end {{in_order}} ({{in_order2}}).", {
                  number,
                  in_order: sum(told.in_order),
                  in_order2: grades(told.in_order),
                })}
          </span>
        </p>
      )}
    </section>
  );
}
