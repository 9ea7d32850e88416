import { useState, useSyncExternalStore } from "react";
import { useOwn } from "../../parts/own/own";

/** Which columns the register shows, remembered on this computer. */
const DEFAULT = [
  "name",
  "kind",
  "os.name",
  "os.version",
  "address",
  "memory",
  "place",
  "person",
  "last_seen",
  "evidence",
];
const KEY = "register.columns";

export const WIDTHS: Record<string, string> = {
  name: "minmax(118px, 1.3fr)",
  number: "84px",
  kind: "minmax(80px, 0.8fr)",
  "os.name": "minmax(104px, 1.1fr)",
  "os.version": "minmax(72px, 0.6fr)",
  address: "106px",
  memory: "70px",
  cores: "64px",
  place: "minmax(84px, 0.9fr)",
  person: "minmax(80px, 0.9fr)",
  last_seen: "64px",
  first_seen: "92px",
  sources: "72px",
  evidence: "88px",
  "software.count": "84px",
  mac: "142px",
  serial: "118px",
};

const SIZES = "register.widths";

function keptSizes(): Record<string, number> {
  try {
    return JSON.parse(localStorage.getItem(SIZES) ?? "{}") as Record<string, number>;
  } catch {
    localStorage.removeItem(SIZES);
    return {};
  }
}

/** How wide columns are: as they come, or as they were drawn on this computer. */
export function useWidths() {
  const [sizes, setSizes] = useState(keptSizes);
  return {
    width: (field: string) => {
      const px = sizes[field];
      return px ? `${px}px` : (WIDTHS[field] ?? "minmax(100px, 1fr)");
    },
    /** The least the whole table may be wide, in px, before it scrolls sideways. */
    least: (columns: string[]) =>
      columns.reduce((sum, c) => sum + (sizes[c] ?? Number(/\d+/.exec(WIDTHS[c] ?? "100")?.[0] ?? 100)), 42),
    size: (field: string, px: number | null) => {
      const next = { ...sizes };
      if (px === null) delete next[field];
      else next[field] = Math.round(px);
      localStorage.setItem(SIZES, JSON.stringify(next));
      setSizes(next);
    },
  };
}

/** The columns of the link one came by, else those of this computer; what is chosen is both. */
export function useColumns(
  linked: string | undefined,
  link: (columns: string) => void,
): [string[], (columns: string[]) => void] {
  const own = useOwn().data?.fields.filter((f) => f.listed) ?? [];
  const [columns, setColumns] = useState<string[] | null>(() => {
    try {
      const kept = JSON.parse(localStorage.getItem(KEY) ?? "null") as unknown;
      if (Array.isArray(kept) && kept.length > 0) return kept.map(String);
    } catch {
      localStorage.removeItem(KEY);
    }
    return null;
  });
  const begun = DEFAULT.flatMap((c) => (c === "last_seen" ? [...own.map((f) => `field:${f.name}`), c] : [c]));
  return [
    linked ? linked.split(",") : (columns ?? begun),
    (next) => {
      link(next.join(","));
      localStorage.setItem(KEY, JSON.stringify(next));
      setColumns(next);
    },
  ];
}

const PHONE = "(max-width: 767px)";

/** Whether there is room for one line a device alone. */
export function useSmallScreen(): boolean {
  return useSyncExternalStore(
    (told) => {
      const query = window.matchMedia(PHONE);
      query.addEventListener("change", told);
      return () => query.removeEventListener("change", told);
    },
    () => window.matchMedia(PHONE).matches,
  );
}
