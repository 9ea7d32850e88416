import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { asks } from "../../api/asking";
import { count, plural } from "../../parts/format";
import { useMay } from "../../parts/me";
import { Unanswered } from "../../parts/Problem";
import { t } from "../../words";
import { KnownPrograms } from "./KnownPrograms";
import { UnknownPrograms } from "./UnknownPrograms";

type View = "unknown" | "known" | "alone";

/** What runs and no known application explains; what was made known; and what is left alone. */
export function Programs({ at }: { at: string | undefined }) {
  const [view, setView] = useState<View>("unknown");
  const may = useMay("plan") && !at;
  const asked = useQuery({
    ...asks("/api/services/programs", { params: { query: { as_of: at, alone: view === "alone" } } }),
    placeholderData: (before) => before,
  });
  const known = useQuery({
    ...asks("/api/services/applications", { params: { query: { as_of: at } } }),
    placeholderData: (before) => before,
  });
  if (asked.error || !asked.data) return <Unanswered asked={asked} what={t("Seeing what runs …")} />;
  if (known.error || !known.data) return <Unanswered asked={known} what={t("Seeing what is known …")} />;
  const made = known.data.filter((a) => !a.general);
  const views: [View, string, number | null][] = [
    ["unknown", t("Unknown"), view === "alone" ? null : asked.data.count],
    ["known", t("Known by a rule"), made.length],
    ["alone", t("Left alone"), asked.data.alone],
  ];
  return (
    <>
      <fieldset className="flex flex-wrap items-center gap-2 py-2.5" aria-label={t("Which programs")}>
        {views.map(([key, label, number]) => (
          <button
            key={key}
            type="button"
            aria-pressed={key === view}
            className={`btn btn-sm ${key === view ? "btn-primary" : ""}`}
            onClick={() => setView(key)}
          >
            {label} {number !== null && <span className="font-normal opacity-80">{count(number)}</span>}
          </button>
        ))}
        {view === "unknown" && (
          <span className="dim ml-2 text-[13px]">
            {t(
              "{{processes}} on {{devices}} that are not the system’s, of no package there, and known by no rule. What others depend on comes first.",
              {
                processes: plural(asked.data.processes, "process", "processes"),
                devices: plural(asked.data.devices, "device"),
              },
            )}
          </span>
        )}
      </fieldset>
      {view === "known" ? (
        <KnownPrograms rows={known.data} at={at} may={may} />
      ) : (
        <UnknownPrograms told={asked.data} at={at} may={may} alone={view === "alone"} />
      )}
    </>
  );
}
