const TONES: Record<string, string> = { permitted: "ok", tolerated: "warn", barred: "bad" };

/** What the company says, as a word; the colour only repeats it. */
export function Verdict({ verdict, why, mixed }: { verdict: string; why?: string; mixed?: boolean }) {
  if (!verdict) return null;
  return (
    <span className={`tag ${TONES[verdict] ?? ""}`} title={why}>
      {verdict === "none yet" ? "no ruling yet" : verdict}
      {mixed && <span className="font-normal">otherwise for some</span>}
    </span>
  );
}

/** A bar a day (or week): how many devices, the latest at the right. */
export function Bars({ values, label, width = 168 }: { values: number[]; label: string; width?: number }) {
  const most = Math.max(1, ...values);
  const step = width / values.length;
  return (
    <svg width={width} height="26" role="img" aria-label={label} className="block">
      {values.map((value, i) => {
        const height = value ? Math.max(3, (24 * value) / most) : 1.5;
        return (
          <rect
            key={i}
            x={i * step}
            y={25 - height}
            width={Math.max(1, step - 1.5)}
            height={height}
            rx="1"
            fill={value ? "var(--s2)" : "var(--color-base-300)"}
          />
        );
      })}
    </svg>
  );
}
