import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { asks } from "../../api/asking";
import { companyDay, daysFrom } from "../../parts/days";
import { shortDay } from "../../parts/format";
import { Problem } from "../../parts/Problem";
import { t } from "../../words";

const weekAgo = (at: string | undefined) => daysFrom(at ? at.slice(0, 10) : companyDay(), -7);

/** Which balances stood otherwise on an earlier day; reckoned only when it is opened. */
export function ChangedSince({ at, choose }: { at: string | undefined; choose: (key: string) => void }) {
  const [open, setOpen] = useState(false);
  const [since, setSince] = useState(weekAgo(at));
  const asked = useQuery({
    ...asks("/api/licences/changes", { params: { query: { since, as_of: at } } }),
    enabled: open,
  });
  const arrow = ([a, b]: (number | null)[]) => (a === b ? `${a ?? "∞"}` : `${a ?? "∞"} → ${b ?? "∞"}`);
  return (
    <details
      className="border-t border-base-300 px-4 py-1.5 text-[13px]"
      onToggle={(e) => setOpen(e.currentTarget.open)}
    >
      <summary className="cursor-pointer font-semibold">{t("What changed")}</summary>
      <label className="flex items-center gap-2 py-1.5">
        <span className="dim">{t("since the evening of")}</span>
        <input
          type="date"
          className="input input-sm w-40"
          value={since}
          onChange={(e) => e.target.value && setSince(e.target.value)}
        />
      </label>
      {asked.error ? <Problem error={asked.error} /> : null}
      {asked.data?.length === 0 && (
        <p className="dim pb-1">{t("Nothing: every balance stood as it does.")}</p>
      )}
      <ul className="flex flex-wrap gap-x-6 pb-1">
        {asked.data?.map((c) => (
          <li key={c.key}>
            <button type="button" className="link-quiet font-semibold" onClick={() => choose(c.key)}>
              {c.name}
            </button>{" "}
            {t("needed {{needed}}, entitled {{entitled}},", {
              needed: arrow(c.needed),
              entitled: arrow(c.entitled),
            })}{" "}
            <span className={(c.short[1] ?? 0) > (c.short[0] ?? 0) ? "font-semibold text-error" : ""}>
              {t("short {{short}}", { short: arrow(c.short) })}
            </span>
          </li>
        ))}
      </ul>
      {open && asked.isPending && (
        <p className="dim">{t("Reckoning {{since}} …", { since: shortDay(since) })}</p>
      )}
    </details>
  );
}
