import { Link, useNavigate, useSearch } from "@tanstack/react-router";
import type { Search } from "../search";
import { t } from "../words";

/** The views of a room, as a row over what they show; which one is open stands in the address bar. */
export function Views<T extends readonly (readonly [string | undefined, string, ...unknown[]])[]>(props: {
  room: string;
  to: string;
  views: T;
  className?: string;
  /** What was asked in one view means nothing in the next. */
  forgets?: boolean;
}) {
  const { tab } = useSearch({ strict: false }) as Search;
  const navigate = useNavigate();
  return (
    <nav
      aria-label={t("Views of {{room}}", { room: props.room })}
      className={`flex flex-wrap gap-1 border-b border-base-300 ${props.className ?? ""}`}
    >
      {props.views.map(([key, label]) => (
        <button
          key={label}
          type="button"
          aria-pressed={tab === key}
          onClick={() =>
            void navigate({
              to: props.to,
              search: ((before: Search) => ({
                ...before,
                tab: key,
                q: props.forgets ? undefined : before.q,
              })) as never,
            })
          }
          className={`-mb-px rounded-t-[8px] px-3 py-1.5 text-[13px] font-semibold ${
            tab === key ? "border border-b-0 border-base-300 bg-base-100 text-primary" : "dim"
          }`}
        >
          {label}
        </button>
      ))}
    </nav>
  );
}

/** The way to the report that says the same as a view: there it is exported, changed, and watched. */
export function AsReport({ reports }: { reports: Record<string, string> }) {
  const { at, tab } = useSearch({ strict: false }) as Search;
  const report = reports[tab ?? ""];
  if (!report) return null;
  return (
    <Link to="/reports/$report" params={{ report }} search={{ at } as never} className="btn btn-sm">
      {t("As a report")}
    </Link>
  );
}
