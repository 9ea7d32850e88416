import { Link } from "@tanstack/react-router";
import type { Schemas } from "../../api/client";
import { plural } from "../../parts/format";
import { t, word } from "../../words";
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
      aria-label={t("Services that stop or are weakened")}
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
            <span className={`tag ${r.fate === "stops" ? "bad" : "warn"}`}>{word(r.fate)}</span>
          </p>
          {r.because.map((because) => (
            <p key={because}>{because}</p>
          ))}
          {lasts !== undefined && r.fate === "stops" && r.promise !== null && lasts > r.promise && (
            <p className="text-error">
              {t("Down for {{lasts}} it breaks its promise by {{lasts2}}", {
                lasts: lasting(lasts),
                lasts2: lasting(lasts - r.promise),
              })}
            </p>
          )}
          <p className="dim pt-0.5">
            {plural(r.devices, "device")}
            {r.people > 0 && t(" and {{people}}", { people: plural(r.people, "person", "people") })}{" "}
            {t("stand on it; {{promise}}{{hours}}{{owner}}", {
              promise: within(r.promise),
              hours: r.hours && t("; in use {{hours}}", { hours: r.hours }),
              owner: r.owner && t("; ask {{owner}}", { owner: r.owner }),
            })}
          </p>
        </li>
      ))}
    </ul>
  );
}
