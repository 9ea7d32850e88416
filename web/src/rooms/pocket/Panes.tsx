import type { ReactNode } from "react";

interface Props {
  left: ReactNode;
  right: ReactNode;
  /** Which of them a phone shows, which has room for one. */
  phone: "left" | "right";
}

/** Two panes beside each other where there is room for both, as on a tablet. */
export function Panes({ left, right, phone }: Props) {
  const shown = (pane: Props["phone"]) => (phone === pane ? "" : "hidden md:block");
  return (
    <div className="h-full md:grid md:grid-cols-[340px_minmax(0,1fr)]">
      <div className={`overflow-auto border-base-300 md:border-r ${shown("left")}`}>{left}</div>
      <div className={`overflow-auto ${shown("right")}`}>{right}</div>
    </div>
  );
}
