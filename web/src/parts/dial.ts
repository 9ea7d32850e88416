import { useNavigate, useSearch } from "@tanstack/react-router";
import { t } from "../words";
import { day } from "./format";

/** The as-of dial: the date the whole application is seen at; it lives in the address bar. */
export function useDial(): { at: string | undefined; turn: (to: string | null) => void; past: boolean } {
  const { at } = useSearch({ strict: false }) as { at?: string };
  const navigate = useNavigate();
  return {
    at,
    past: Boolean(at),
    turn: (to) => {
      void navigate({ to: ".", search: ((before: object) => ({ ...before, at: to ?? undefined })) as never });
    },
  };
}

export function dialWords(at: string): string {
  return t("as of {{it}}", { it: day(`${at.slice(0, 10)}T12:00:00Z`) });
}
