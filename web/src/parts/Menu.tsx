/** A button whose sheet opens below it. */
export function Menu({ label, children }: { label: string; children: React.ReactNode }) {
  const id = `choose-${label.toLowerCase()}`;
  return (
    <>
      <button
        type="button"
        popoverTarget={id}
        style={{ anchorName: `--${id}` } as React.CSSProperties}
        className="btn btn-ghost btn-sm text-info"
      >
        {label}
      </button>
      <div
        id={id}
        popover="auto"
        className="dropdown dropdown-end sheet max-h-[60vh] w-60 overflow-auto p-2 shadow-lg"
        style={{ positionAnchor: `--${id}` } as React.CSSProperties}
      >
        {children}
      </div>
    </>
  );
}

/** Close what is open below a button, once something was chosen of it. */
export function closeMenu(label: string): void {
  // A page without popovers has none open.
  document.getElementById(`choose-${label.toLowerCase()}`)?.hidePopover?.();
}
