import { useNavigate, useSearch } from "@tanstack/react-router";

/** The branch of the estate every room is narrowed to, such as `place:Saltholm`; it lives in the address bar. */
export function useStanding(): { branch: string; name: string; stand: (where: string | null) => void } {
  const { in: branch = "" } = useSearch({ strict: false }) as { in?: string };
  const navigate = useNavigate();
  return {
    branch,
    name: branch.slice(branch.indexOf(":") + 1),
    stand: (where) => {
      void navigate({
        to: ".",
        // Nowhere is written out, for what is left out stays as it was; the address does not show it.
        search: ((before: object) => ({ ...before, in: where ?? "" })) as never,
      });
    },
  };
}
