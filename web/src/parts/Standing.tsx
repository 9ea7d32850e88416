import { useQuery } from "@tanstack/react-query";
import { Link } from "@tanstack/react-router";
import { MapPin } from "lucide-react";
import { useRef, useState } from "react";
import { asks } from "../api/asking";
import { t } from "../words";

import { useDial } from "./dial";
import { count } from "./format";
import { useStanding } from "./standing";

const HEADS = { place: t("Places"), department: t("Departments"), person: t("People") } as const;

/** The control in the bar that narrows every room to one branch of the estate. */
export function Standing() {
  const { branch, name, stand } = useStanding();
  const { at } = useDial();
  const [open, setOpen] = useState(false);
  const [sought, setSought] = useState("");
  const popover = useRef<HTMLDivElement>(null);
  const branches = useQuery({
    ...asks("/api/branches", { params: { query: { as_of: at } } }),
    enabled: open,
  });
  const go = (where: string | null) => {
    popover.current?.hidePopover();
    setSought("");
    stand(where);
  };
  const found = branches.data?.filter(
    (b) => (sought || b.field !== "person") && b.name.toLowerCase().includes(sought.toLowerCase()),
  );
  return (
    <>
      <button
        type="button"
        popoverTarget="standing"
        aria-label={branch ? t("Standing in {{name}}", { name }) : t("Everywhere: no branch is stood in")}
        style={{ anchorName: "--standing" } as React.CSSProperties}
        className={`flex max-w-44 items-center gap-2 rounded-[7px] border px-2.5 py-[3px] text-[13px] ${
          branch
            ? "border-accent bg-accent font-semibold text-accent-content"
            : "border-[#2d5a63] text-[#cfe2e2]"
        }`}
      >
        <MapPin size={14} className={`flex-none ${branch ? "" : "text-accent"}`} aria-hidden="true" />
        <span className={`truncate ${branch ? "" : "hidden lg:inline"}`}>
          {branch ? name : t("Everywhere")}
        </span>
      </button>
      <div
        ref={popover}
        id="standing"
        popover="auto"
        onToggle={(e) => setOpen(e.newState === "open")}
        className="dropdown dropdown-end sheet w-80 p-3 text-base-content shadow-lg"
        style={{ positionAnchor: "--standing" } as React.CSSProperties}
      >
        <p className="text-[13px] font-semibold">{t("Stand in a branch of the estate")}</p>
        <p className="faint mb-2 text-[12px]">{t("Every room and every report is narrowed to it.")}</p>
        {/* Above the list: what it shifts must not be what is being pressed. */}
        <div className="mb-2 flex items-center gap-3">
          <button
            type="button"
            className="btn btn-sm btn-primary"
            disabled={!branch}
            onClick={() => go(null)}
          >
            {t("Everywhere")}
          </button>
          <Link
            to="/branches"
            search={{}}
            className="link-quiet text-[13px]"
            onClick={() => popover.current?.hidePopover()}
          >
            {t("Put them in order")}
          </Link>
        </div>
        <input
          type="search"
          aria-label={t("Find a place, department or person")}
          placeholder={t("place, department or person …")}
          className="input input-sm mb-1 w-full"
          value={sought}
          onChange={(e) => setSought(e.target.value)}
        />
        <div className="h-72 overflow-y-auto">
          {branches.error && <p className="py-2 text-[13px]">{branches.error.message}</p>}
          {found?.length === 0 && <p className="faint py-2 text-[13px]">{t("Nothing is called that.")}</p>}
          {(["place", "department", "person"] as const).map((field) => {
            const mine = found?.filter((b) => b.field === field) ?? [];
            return (
              mine.length > 0 && (
                <section key={field} aria-label={HEADS[field]}>
                  <p className="faint pt-1.5 pb-0.5 text-[12px]">{HEADS[field]}</p>
                  {mine.slice(0, 60).map((b) => (
                    <button
                      key={b.name}
                      type="button"
                      aria-pressed={branch === `${b.field}:${b.name}`}
                      className="flex w-full items-baseline rounded px-2 py-[3px] text-left text-[13px] hover:bg-base-200 aria-pressed:font-semibold"
                      style={{ paddingLeft: `${8 + (sought ? 0 : b.depth) * 14}px` }}
                      onClick={() => go(`${b.field}:${b.name}`)}
                    >
                      {b.name}
                      <span className="faint num ml-auto">{count(b.within)}</span>
                    </button>
                  ))}
                </section>
              )
            );
          })}
        </div>
      </div>
    </>
  );
}
