import { Link } from "@tanstack/react-router";
import type { ReactNode } from "react";
import { asRow } from "../../api/types";
import { capital } from "../../parts/format";
import { t } from "../../words";

interface Props {
  label: string;
  /** Rows as the register tells them. */
  rows: object[];
  /** What is said below them. */
  children?: ReactNode;
}

/** Devices, each of which opens its card. */
export function Devices({ label, rows, children }: Props) {
  return (
    <ul className="sheet divide-y divide-base-300" aria-label={label}>
      {rows.map((found) => {
        const row = asRow(found as Parameters<typeof asRow>[0]);
        return (
          <li key={String(row.id)}>
            <Link
              to="/pocket/assets/$asset"
              params={{ asset: String(row.id) }}
              search={((before: object) => before) as never}
              className="block px-3.5 py-2.5 aria-[current=page]:bg-accent/15"
            >
              <b className="mono">{row.name || row.number}</b>
              <span className="dim block text-[13px]">
                {[capital(t(String(row.kind ?? ""))), row.model, row.person, row.place]
                  .filter(Boolean)
                  .join(" · ")}
              </span>
            </Link>
          </li>
        );
      })}
      {children}
    </ul>
  );
}
