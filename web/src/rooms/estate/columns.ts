import { useState } from "react";
import { useOwn } from "../kinds/own";

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

export function width(field: string): string {
  return WIDTHS[field] ?? "minmax(100px, 1fr)";
}

export function useColumns(): [string[], (columns: string[]) => void] {
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
    columns ?? begun,
    (next) => {
      localStorage.setItem(KEY, JSON.stringify(next));
      setColumns(next);
    },
  ];
}
