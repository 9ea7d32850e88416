import { Link } from "@tanstack/react-router";
import type { Schemas } from "../../api/client";
import { plural } from "../../parts/format";
import { lasting, within } from "./words";

interface Props {
  rows: Schemas["ServiceFallen"][];
  /** How many minutes it is meant to be down. */
  lasts?: number | undefined;
  at: string | undefined;
}

/** The services that stop or are weakened, why, whom that meets, and what was promised. */
export function ServicesHit({ rows, lasts, at }: Props) {
  if (rows.length === 0) return null;
  return (
    <ul
      className="mb-3 grid gap-2 sm:grid-cols-2 lg:grid-cols-3"
      aria-label="Services that stop or are weakened"
    >
      {rows.map((r) => (
        <li key={r.id} className="sheet px-3.5 py-2.5 text-[13px]">
          <p className="flex items-baseline gap-2">
            <Link
              to="/services/$service"
              params={{ service: String(r.id) }}
              search={{ at }}
              className="link-quiet text-[14.5px] font-semibold"
            >
              {r.name}
            </Link>
            <span className={`tag ${r.fate === "stops" ? "bad" : "warn"}`}>{r.fate}</span>
          </p>
          {r.because.map((because) => (
            <p key={because}>{because}</p>
          ))}
          {lasts !== undefined && r.fate === "stops" && r.promise !== null && lasts > r.promise && (
            <p className="text-error">
              Down for {lasting(lasts)} it breaks its promise by {lasting(lasts - r.promise)}
            </p>
          )}
          <p className="dim pt-0.5">
            {plural(r.devices, "device")}
            {r.people > 0 && ` and ${plural(r.people, "person", "people")}`} stand on it; {within(r.promise)}
            {r.hours && `; in use ${r.hours}`}
            {r.owner && `; ask ${r.owner}`}
          </p>
        </li>
      ))}
    </ul>
  );
}
