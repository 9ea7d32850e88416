import { useQuery } from "@tanstack/react-query";
import { Link } from "@tanstack/react-router";
import { useEffect, useState } from "react";
import { asks } from "../../api/asking";
import { Waiting } from "../../parts/Problem";
import { t } from "../../words";
import { Frame } from "./Frame";
import { type Kept, packs } from "./store";

/** The counts that are open, and those that lie here for want of signal. */
export function CountList() {
  return (
    <Frame title={t("Count")}>
      {({ person, away }) => <List away={away} who={person?.username ?? ""} />}
    </Frame>
  );
}

function List({ away, who }: { away: boolean; who: string }) {
  const asked = useQuery({ ...asks("/api/counts"), enabled: !away, networkMode: "always" });
  const [kept, setKept] = useState<Kept[] | null>(null);
  useEffect(() => void packs().then(setKept), []);
  if (kept === null) return <Waiting what={t("Looking …")} />;
  const rows = asked.data
    ? asked.data
        .filter((c) => c.state === "open")
        .map((c) => ({
          id: c.id,
          name: c.name,
          number: c.number,
          of: c.expected,
          met: c.figures.found + c.figures.elsewhere,
        }))
    : kept
        .filter((p) => p.who === who)
        .map((p) => ({
          id: p.id,
          name: p.name,
          number: p.number,
          of: p.devices.length,
          met: p.devices.filter((d) => d.met).length,
        }));
  return (
    <div className="grid gap-2.5 px-4 py-4">
      {rows.map((c) => (
        <Link
          key={c.id}
          to="/pocket/count/$count"
          params={{ count: String(c.id) }}
          search={{}}
          className="sheet block px-4 py-3"
        >
          <span className="flex items-baseline gap-2">
            <b className="min-w-0 flex-1 text-[15px]">{c.name}</b>
            <span className="mono dim text-[12.5px]">{c.number}</span>
          </span>
          <span className="dim text-[13px]">
            {t("{{met}} of {{count}} device met", { met: c.met, count: c.of })}
            {kept.some((p) => p.id === c.id) && ` · ${t("lies here, also without signal")}`}
          </span>
        </Link>
      ))}
      {rows.length === 0 && (
        <p className="dim py-6 text-center text-[14px]">
          {away
            ? t("No count was taken along on this phone.")
            : t("No count is open. One is opened in Lifecycle, Counts.")}
        </p>
      )}
    </div>
  );
}
