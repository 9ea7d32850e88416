import { useQuery } from "@tanstack/react-query";
import { asks } from "../../api/asking";
import type { Schemas } from "../../api/client";
import { language, t, word } from "../../words";
import { iso } from "../format";

export type Own = Schemas["OwnOut"];
export type OwnField = Own["fields"][number];
export type OwnKind = Own["kinds"][number];

/** Kinds and the company's own fields. */
export function useOwn() {
  return useQuery({
    ...asks("/api/kinds"),
    staleTime: 30_000,
  });
}

/** The fields an asset of a kind has, in order. */
export function fieldsOf(own: Own | undefined, kind: string): OwnField[] {
  const names = own?.kinds.find((k) => k.name === kind)?.fields;
  if (!own) return [];
  const wanted = names ?? own.fields.filter((f) => f.kinds.length === 0).map((f) => f.name);
  return wanted.flatMap((n) => own.fields.find((f) => f.name === n) ?? []);
}

/** The fields of a kind that people fill in: those made of others fill themselves. */
export function entered(fields: OwnField[]): OwnField[] {
  return fields.filter((f) => f.type !== "made of others");
}

/** A value as people read it. */
export function shown(field: OwnField | undefined, value: unknown): string {
  if (value === null || value === undefined || value === "") return "";
  if (field?.type === "yes/no") return value ? t("yes") : t("no");
  if (field?.type === "date" && typeof value === "number") return iso(value).slice(0, 10);
  return field?.unit ? `${value} ${field.unit}` : String(value);
}

/** What a kind is called where the reader's language has a name for it. */
export function kindWords(kind: OwnKind): string {
  const said = [language(), ...navigator.languages]
    .map((l) => kind.names[l] ?? kind.names[l.split("-")[0] ?? ""])
    .find(Boolean);
  return said && said !== kind.name ? `${said} (${kind.name})` : word(kind.name);
}
