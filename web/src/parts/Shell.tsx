import { useQuery, useQueryClient } from "@tanstack/react-query";
import { Link, Outlet, useNavigate, useRouterState } from "@tanstack/react-router";
import { useEffect, useState } from "react";
import { Toaster } from "sonner";
import { account } from "../api/account";
import { asks } from "../api/asking";
import { t, word } from "../words";

import { Dial } from "./Dial";
import { useDial } from "./dial";
import { useMe } from "./me";
import { sayRefused } from "./refusal";
import { Shortcuts } from "./Shortcuts";
import { Standing } from "./Standing";
import { useStanding } from "./standing";
import { applyTheme, currentTheme } from "./theme";

function Mark() {
  return (
    <svg width="26" height="20" viewBox="0 0 26 20" aria-hidden="true">
      <path d="M1 12 8 2l5 7 4-5 8 8Z" fill="#7fb3ae" />
      <path d="M1 14h24M4 17h18M8 20h10" stroke="#d99a0b" strokeWidth="1.6" />
    </svg>
  );
}

/** Pages that belong to a room though their address is another. */
const ALSO: Record<string, string[]> = {
  "/estate": ["/assets", "/people", "/branches", "/sets", "/kinds", "/fill-rules", "/tasks"],
  "/lifecycle": ["/counts"],
  "/reports": ["/handbooks"],
};

function Room({ to, children, badge }: { to: string; children: string; badge?: number }) {
  const path = useRouterState({ select: (s) => s.location.pathname });
  const on = path.startsWith(to) || ALSO[to]?.some((p) => path.startsWith(p));
  return (
    <Link
      to={to}
      search={((before: { at?: string }) => ({ at: before.at })) as never}
      aria-current={on ? "page" : undefined}
      className={`relative flex items-center px-3 ${on ? "text-white" : "text-[#b5d0d1] hover:text-white"}`}
    >
      {children}
      {badge ? (
        <b className="ml-1.5 rounded-full bg-accent px-1.5 text-[11px] leading-[17px] font-semibold text-accent-content">
          {badge}
          <span className="sr-only"> {t("at intake")}</span>
        </b>
      ) : null}
      {on && <span className="absolute inset-x-3 bottom-0 h-[3px] rounded-t bg-accent" />}
    </Link>
  );
}

function Running() {
  const running = useQuery({
    ...asks("/api/runs", { params: { query: { under_way: true } } }),
    refetchInterval: (q) => (q.state.data?.length ? 2000 : 10_000),
  });
  const first = running.data?.[0];
  if (!first) return null;
  return (
    <Link
      to="/discovery/runs/$run"
      params={{ run: String(first.id) }}
      className="hidden items-center rounded-[7px] border border-[#2d5a63] px-2.5 py-[3px] text-[13px] text-[#cfe2e2] sm:flex"
    >
      {running.data?.length} {first.state === "paused" ? t("paused") : t("running")}
    </Link>
  );
}

function PersonMenu() {
  const me = useMe().data;
  const queries = useQueryClient();
  const navigate = useNavigate();
  const [theme, setTheme] = useState(currentTheme());
  if (!me) return null;
  const initials = me.full_name
    .split(" ")
    .map((w) => w.charAt(0))
    .join("")
    .slice(0, 2)
    .toUpperCase();
  const leave = async () => {
    try {
      await account("DELETE", "/auth/session");
    } catch (error) {
      sayRefused(error, t("You are still signed in: no answer came."));
      return;
    }
    // First away, then forget: a page that still stands would ask who is signed in, and send one to sign in a second time.
    await navigate({ to: "/sign-in", search: {} });
    queries.clear();
  };
  return (
    <>
      <button
        type="button"
        popoverTarget="person-menu"
        style={{ anchorName: "--person" } as React.CSSProperties}
        aria-label={t("{{initials}}: menu of {{full_name}}", { initials, full_name: me.full_name })}
        className="ml-2 grid h-7 w-7 place-items-center rounded-full bg-[#2d6a74] text-[12px] font-bold text-white"
      >
        {initials}
      </button>
      <div
        id="person-menu"
        popover="auto"
        className="dropdown dropdown-end sheet w-56 p-2 text-base-content shadow-lg"
        style={{ positionAnchor: "--person" } as React.CSSProperties}
      >
        <p className="px-2 pt-1 font-semibold">{me.full_name}</p>
        <p className="faint px-2 pb-2 text-[12px]">{word(me.role)}</p>
        <Link to="/settings" className="btn btn-ghost btn-sm w-full justify-start">
          {t("Settings")}
        </Link>
        <Link to="/tasks" search={{}} className="btn btn-ghost btn-sm w-full justify-start">
          {t("Tasks")}
        </Link>
        <button
          type="button"
          className="btn btn-ghost btn-sm w-full justify-start"
          onClick={() => {
            const next = theme === "tarn" ? "tarn-night" : "tarn";
            applyTheme(next);
            setTheme(next);
          }}
        >
          {theme === "tarn" ? t("Night colours") : t("Day colours")}
        </button>
        <button type="button" className="btn btn-ghost btn-sm w-full justify-start" onClick={leave}>
          {t("Sign out")}
        </button>
      </div>
    </>
  );
}

/** The bar over every room, the dial's edge round everything, and what the rooms show. */
export function Shell() {
  const me = useMe();
  const navigate = useNavigate();
  const { past } = useDial();
  const { branch } = useStanding();
  const path = useRouterState({ select: (s) => s.location.pathname });
  const href = useRouterState({ select: (s) => s.location.href });
  const intake = useQuery({
    ...asks("/api/intake/count"),
    enabled: Boolean(me.data),
    refetchInterval: 20_000,
  });
  // Whoever was given a link to acknowledge something, or scans a label, need not sign in.
  const pocket = path.startsWith("/pocket");
  const signing = path === "/sign-in" || path.startsWith("/acknowledge/") || path.startsWith("/l/");
  useEffect(() => {
    if (me.data === null && !signing && !pocket)
      void navigate({ to: "/sign-in", search: { to: href } as never, replace: true });
  }, [me.data, signing, pocket, navigate, href]);
  useEffect(() => {
    if (me.data?.factor_wanted && path !== "/settings") void navigate({ to: "/settings", search: {} });
  }, [me.data?.factor_wanted, path, navigate]);
  // The pocket has a head and a foot of its own, and opens without signal.
  if (signing || pocket) return <Outlet />;
  if (!me.data) return null;
  const waiting = intake.data?.waiting ?? 0;
  return (
    <div className={`flex min-h-dvh flex-col ${past ? "in-the-past" : ""}`}>
      <a
        href="#main"
        className="sr-only focus:not-sr-only focus:absolute focus:z-50 focus:bg-base-100 focus:p-2"
      >
        {t("Skip to the page")}
      </a>
      <header className="flex h-[46px] flex-none items-stretch overflow-x-auto bg-neutral px-4 text-neutral-content">
        <Link
          to="/today"
          search={{}}
          className="flex items-center gap-2 pr-3 text-[17px] font-bold tracking-wide text-white sm:pr-5"
        >
          <Mark /> {t("tarn")}
        </Link>
        <nav aria-label={t("Rooms")} className="flex items-stretch">
          <Room to="/today">{t("Today")}</Room>
          <Room to="/discovery" badge={waiting}>
            {t("Discovery")}
          </Room>
          <Room to="/estate">{t("Estate")}</Room>
          <Room to="/software">{t("Software")}</Room>
          <Room to="/licences">{t("Licences")}</Room>
          <Room to="/lifecycle">{t("Lifecycle")}</Room>
          <Room to="/exposure">{t("Exposure")}</Room>
          <Room to="/services">{t("Services")}</Room>
          <Room to="/reports">{t("Reports")}</Room>
        </nav>
        <span className="flex-1" />
        <div className="flex items-center gap-2">
          <Running />
          <Standing />
          <Dial />
          <PersonMenu />
        </div>
      </header>
      {me.data.warning && (
        <p role="alert" className="bg-error px-4 py-1.5 text-[13px] font-semibold text-error-content">
          {me.data.warning}
        </p>
      )}
      <main id="main" className="flex min-h-0 flex-1 flex-col">
        <Outlet key={branch} />
      </main>
      <Shortcuts />
      <Toaster position="bottom-right" closeButton toastOptions={{ duration: 8000 }} />
    </div>
  );
}
