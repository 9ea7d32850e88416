import { Clock } from "lucide-react";
import { useRef } from "react";
import { t } from "../words";
import { companyDay, daysFrom } from "./days";
import { dialWords, useDial } from "./dial";

function daysAgo(n: number): string {
  return daysFrom(companyDay(), -n);
}

const CHOICES: [string, number][] = [
  [t("Yesterday"), 1],
  [t("A week ago"), 7],
  [t("A month ago"), 30],
  [t("Three months ago"), 91],
];

/** The dial in the bar: Now unless turned. */
export function Dial() {
  const { at, turn } = useDial();
  const popover = useRef<HTMLDivElement>(null);
  const pick = (to: string | null) => {
    popover.current?.hidePopover();
    turn(to);
  };
  return (
    <>
      <button
        type="button"
        popoverTarget="dial"
        style={{ anchorName: "--dial" } as React.CSSProperties}
        className={`flex items-center gap-2 rounded-[7px] border px-2.5 py-[3px] text-[13px] ${
          at ? "border-accent bg-accent font-semibold text-accent-content" : "border-[#2d5a63] text-[#cfe2e2]"
        }`}
      >
        <Clock size={14} className={at ? "" : "text-accent"} aria-hidden="true" />
        {at ? dialWords(at) : t("Now")}
      </button>
      <div
        ref={popover}
        id="dial"
        popover="auto"
        className="dropdown dropdown-end sheet w-64 p-3 text-base-content shadow-lg"
        style={{ positionAnchor: "--dial" } as React.CSSProperties}
      >
        <p className="mb-2 text-[13px] font-semibold">{t("See everything as of")}</p>
        <div className="grid gap-1">
          {CHOICES.map(([label, n]) => (
            <button
              key={n}
              type="button"
              className="btn btn-sm justify-start"
              onClick={() => pick(daysAgo(n))}
            >
              {label} <span className="faint mono ml-auto">{daysAgo(n)}</span>
            </button>
          ))}
          <label className="mt-1 flex items-center gap-2 text-[13px]">
            {t("Any day")}
            <input
              type="date"
              className="input input-sm flex-1"
              max={daysAgo(1)}
              value={at ?? ""}
              onChange={(e) => e.target.value && pick(e.target.value)}
            />
          </label>
          <button
            type="button"
            className="btn btn-sm btn-primary mt-1"
            disabled={!at}
            onClick={() => pick(null)}
          >
            {t("Back to now")}
          </button>
        </div>
        <p className="faint mt-2 text-[12px]">{t("Nothing can be changed while the dial is turned back.")}</p>
      </div>
    </>
  );
}
