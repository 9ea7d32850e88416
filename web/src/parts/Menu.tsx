import { useState } from "react";

interface Props {
  label: string;
  children: React.ReactNode;
  /** Where several menus of a page have one label, what tells them apart. */
  of?: string;
  /** Shown in the label's place; the label is its name then. */
  icon?: React.ReactNode;
}

/** A button whose sheet opens below it. */
export function Menu({ label, children, of, icon }: Props) {
  const id = menuId(label, of);
  const [open, setOpen] = useState(false);
  return (
    <>
      <button
        type="button"
        popoverTarget={id}
        style={{ anchorName: `--${id}` } as React.CSSProperties}
        className={icon ? "btn btn-ghost btn-xs px-1 text-[var(--ink-3)]" : "btn btn-ghost btn-sm text-info"}
        aria-label={icon ? label : undefined}
        title={icon ? label : undefined}
      >
        {icon ?? label}
      </button>
      <div
        id={id}
        popover="auto"
        onBeforeToggle={(e) => setOpen(e.newState === "open")}
        className="dropdown dropdown-end sheet max-h-[60vh] w-60 overflow-auto p-2 shadow-lg"
        style={{ positionAnchor: `--${id}` } as React.CSSProperties}
      >
        {open && children}
      </div>
    </>
  );
}

/** Close what is open below a button, once something was chosen of it. */
export function closeMenu(label: string, of?: string): void {
  // A page without popovers has none open.
  document.getElementById(menuId(label, of))?.hidePopover?.();
}

const menuId = (label: string, of = "") => `choose-${label}-${of}`.toLowerCase().replace(/[^a-z0-9]+/g, "-");
