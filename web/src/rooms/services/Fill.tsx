interface Props {
  /** How full it is, in percent. */
  percent: number;
  grade?: "bad" | "warn" | "";
  /** How wide it is, and where it stands. */
  className: string;
}

const INK = { bad: "bg-error", warn: "bg-warning-content", "": "bg-primary" };

/** How full something is, as a bar; what it says stands beside it in words. */
export function Fill({ percent, grade = "", className }: Props) {
  return (
    <span className={`h-2 rounded bg-base-300 ${className}`} aria-hidden="true">
      <span className={`block h-2 rounded ${INK[grade]}`} style={{ width: `${Math.min(100, percent)}%` }} />
    </span>
  );
}
