import { Link, useRouterState } from "@tanstack/react-router";
import { type ReactNode, useEffect } from "react";
import { Toaster } from "sonner";
import { Waiting } from "../../parts/Problem";
import { t } from "../../words";
import { keepFiles, type Session, useSession } from "./session";

const PLACES = [
  ["/pocket", t("Find")],
  ["/pocket/count", t("Count")],
  ["/pocket/people", t("People")],
  ["/pocket/mine", t("Mine")],
] as const;

interface Props {
  title?: ReactNode;
  /** At the right of the head. */
  beside?: ReactNode;
  /** Whether it has two panes. */
  wide?: boolean;
  children: (session: Session) => ReactNode;
}

/** A page in the pocket: a narrow head, the page, and the four places at the foot. */
export function Frame({ title, beside, wide, children }: Props) {
  const session = useSession();
  // Who it is is asked again and again; the files are kept once.
  const reached = Boolean(session.person) && !session.away;
  const path = useRouterState({ select: (s) => s.location.pathname });
  useEffect(() => {
    // Without it the pocket needs signal to open, and works all the same.
    if (reached) void Promise.all([import("jsqr"), keepFiles()]).catch((error) => console.warn(error));
  }, [reached]);
  useEffect(() => {
    if (session.person === null)
      window.location.assign(`/sign-in?to=${encodeURIComponent(window.location.pathname)}`);
  }, [session.person]);
  const open = PLACES.findLast(([to]) => path === to || path.startsWith(`${to}/`))?.[0] ?? "/pocket";
  return (
    <div className={`mx-auto flex h-dvh w-full flex-col bg-base-200 ${wide ? "max-w-6xl" : "max-w-3xl"}`}>
      <header className="flex min-h-[50px] flex-none items-center gap-3 bg-neutral px-4 py-1.5 text-white">
        <h1 className="min-w-0 flex-1 !text-[15px] font-semibold">{title ?? t("tarn")}</h1>
        {beside}
        {session.away && <span className="tag warn">{t("no signal")}</span>}
      </header>
      <main id="main" className="min-h-0 flex-1 overflow-auto">
        {session.person ? children(session) : <Waiting what={t("Opening …")} />}
      </main>
      <nav
        aria-label={t("Pocket")}
        className="grid flex-none grid-cols-4 border-t border-base-300 bg-base-100 pb-[env(safe-area-inset-bottom)]"
      >
        {PLACES.map(([to, label]) => (
          <Link
            key={to}
            to={to}
            search={{}}
            aria-current={open === to ? "page" : undefined}
            className={`py-3 text-center text-[13.5px] ${open === to ? "font-bold text-primary" : "dim"}`}
          >
            {label}
          </Link>
        ))}
      </nav>
      <Toaster position="top-center" closeButton />
    </div>
  );
}
