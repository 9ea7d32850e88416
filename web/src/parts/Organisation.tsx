import { useQuery } from "@tanstack/react-query";
import { asks } from "../api/asking";
import { t } from "../words";

import { Choice } from "./Form";
import { useMe } from "./me";

export function useOrganisations() {
  return useQuery({
    ...asks("/api/organisations"),
    staleTime: 60_000,
  });
}

/** Whom something is made for; not asked where there is nothing to choose. `value` is an id, "" for all. */
export function OrganisationChoice(props: {
  label: string;
  value: string;
  set: (value: string) => void;
  wrong?: string;
  hint?: string;
  /** What it means to choose none. */
  none?: string;
}) {
  const known = useOrganisations().data ?? [];
  const limits = useMe().data?.limits ?? [];
  if (known.length === 0 || limits.length === 1) return null;
  const { none: _, ...rest } = props;
  const options = known.map((o): [string, string] => [String(o.id), o.name]);
  return (
    <Choice
      {...rest}
      options={
        limits.length > 0
          ? [["", t("choose one")], ...options]
          : [["", props.none ?? t("no organisation")], ...options]
      }
    />
  );
}

export function asOrganisation(value: string): number | null {
  return value ? Number(value) : null;
}

/** The name of an organisation beside what is made for it; nothing where only one is to be seen. */
export function Whose({ id }: { id: number | null }) {
  const known = useOrganisations().data ?? [];
  const found = known.length > 1 && known.find((o) => o.id === id);
  return found ? <span className="tag">{found.name}</span> : null;
}
