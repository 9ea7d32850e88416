import { useQuery } from "@tanstack/react-query";
import { asks } from "../../api/asking";
import type { Schemas } from "../../api/client";
import { useNarrow } from "../../parts/ask/narrow";
import { capital, count } from "../../parts/format";
import { t, word } from "../../words";

type Band = Schemas["BandOut"];

export const BAND_WORDS: Record<string, string> = {
  kind: word("kind"),
  platform: word("platform"),
  place: word("place"),
  last_seen: t("last seen"),
  evidence: word("evidence"),
  "os.name": word("system"),
  manufacturer: word("manufacturer"),
  state: word("state"),
  department: word("department"),
  organisation: word("organisation"),
  memory: word("memory"),
};

const PALE = new Set([2, 3, 4, 5, 6, 7]);

interface Props {
  filter: string;
  at: string | undefined;
  bands: string[];
  change: (filter: string) => void;
}

/** One proportional band a facet: what the selection is made of. Click narrows, again widens, Alt excludes. */
export function Strata({ filter, at, bands, change }: Props) {
  const narrow = useNarrow(filter, change);
  const strata = useQuery({
    ...asks("/api/strata", { params: { query: { filter, as_of: at, bands: bands.join(",") } } }),
    placeholderData: (before) => before,
  });
  if (!strata.data) return <div style={{ height: bands.length * 24 }} />;
  return (
    <div className="grid grid-cols-[76px_1fr] items-center gap-x-2.5 gap-y-[3px] text-[12px]">
      {strata.data.map((band) => (
        <BandRow key={band.name} band={band} change={narrow} />
      ))}
    </div>
  );
}

function BandRow({ band, change }: { band: Band; change: ReturnType<typeof useNarrow> }) {
  const total = band.parts.reduce((n, p) => n + p.count, 0);
  const words = BAND_WORDS[band.name] ?? band.name;
  return (
    <>
      <span className="dim text-right">{words}</span>
      <div className="flex h-[21px] gap-[2px] overflow-hidden rounded-[5px]" role="group" aria-label={words}>
        {band.parts.map((part, i) => {
          const picked = part.held;
          const pale = PALE.has(i) || i > 7;
          const share = part.count / total;
          return (
            <button
              key={part.label}
              type="button"
              aria-pressed={picked}
              title={t("{{label}}: {{number}}. Click to {{which}}, Alt-click to exclude", {
                label: part.label,
                number: count(part.count),
                which: picked ? t("widen") : t("narrow"),
              })}
              onClick={(e) => void change(part.filter, picked ? "widen" : e.altKey ? "exclude" : "narrow")}
              className={`flex min-w-[6px] items-center gap-1.5 overflow-hidden px-[7px] text-[11.5px] whitespace-nowrap transition-[flex-grow] duration-300 focus-visible:-outline-offset-2 ${
                picked ? "outline-2 -outline-offset-2 outline-accent" : ""
              }`}
              style={{
                flex: `${part.count} 1 0`,
                background: `var(--s${Math.min(i, 7) + 1})`,
                color: pale ? "var(--pale-on)" : "var(--dark-on)",
              }}
            >
              <span className={share > 0.035 ? "truncate" : "sr-only"}>{capital(part.label)}</span>
              <em className={share > 0.07 ? "not-italic tabular-nums opacity-90" : "sr-only"}>
                {count(part.count)}
              </em>
              <span className="sr-only">{t("assets")}</span>
            </button>
          );
        })}
        {band.parts.length === 0 && <span className="faint px-2">{t("nothing")}</span>}
      </div>
    </>
  );
}
