import { Link, useRouterState } from "@tanstack/react-router";
import { t } from "../words";

const PAGES = [
  ["/people", t("People")],
  ["/branches", t("Places and departments")],
  ["/sets", t("Sets and phrases")],
  ["/kinds", t("Kinds and fields")],
  ["/fill-rules", t("Fill rules")],
  ["/tasks", t("Tasks")],
] as const;

/** The way between the pages on which the estate is put in order. */
export function EstateNav() {
  const path = useRouterState({ select: (s) => s.location.pathname });
  return (
    <nav aria-label={t("Estate")} className="flex flex-wrap gap-x-4 pt-3 text-[13px]">
      <Link to="/estate" search={{}} className="link-quiet">
        {t("Estate")}
      </Link>
      {PAGES.map(([to, label]) => (
        <Link
          key={to}
          to={to}
          search={{}}
          aria-current={path.startsWith(to) ? "page" : undefined}
          className={path.startsWith(to) ? "font-semibold" : "link-quiet"}
        >
          {label}
        </Link>
      ))}
    </nav>
  );
}
