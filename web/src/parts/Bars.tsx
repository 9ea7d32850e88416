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
