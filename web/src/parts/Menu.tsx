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
