import { count } from "../../parts/format";
import { t } from "../../words";

interface Props {
  needed: number;
  entitled: number | null | undefined;
  short: number;
  spare: number;
  unit: string;
  /** The greatest need or right of the list; the bars share one scale. */
  most: number;
}

const WIDTH = 200;

/** Right and need on one bar: covered is full, short is hatched, spare is pale; a tick at the right, a notch at the need. */
export function BalanceBar({ needed, entitled, short, spare, unit, most }: Props) {
  // Where rights are spare and yet some need fits none of them, what is short stands beyond the rights.
  const beyond = spare > 0 && short > 0 && entitled !== null && entitled !== undefined;
  const whole = beyond ? entitled + short : Math.max(needed, entitled ?? needed, 1);
  // Small licences stay legible beside great ones: lengths go by the square root.
  const length = Math.max(14, WIDTH * Math.sqrt(whole / Math.max(most, 1)));
  const at = (units: number) => (units / whole) * length;
  const covered = needed - short;
  const right = entitled === null || entitled === undefined ? null : at(entitled);
  const said =
    entitled === null || entitled === undefined
      ? t("{{needed}} {{unit}} needed, entitled without limit", { needed: count(needed), unit })
      : `${count(needed)} ${unit} needed, ${count(entitled)} entitled`;
  return (
    <svg width={WIDTH + 8} height="24" role="img" aria-label={said}>
      <title>{said}</title>
      <rect x="0" y="9" width={right === null ? length : at(covered)} height="8" rx="1.5" fill="var(--s1)" />
      {short > 0 && (
        <rect
          x={at(beyond ? whole - short : needed - short)}
          y="9"
          width={at(short)}
          height="8"
          fill="url(#short)"
          stroke="var(--rust-ink)"
        />
      )}
      {spare > 0 && right !== null && (
        <rect
          x={right - at(spare)}
          y="9.5"
          width={at(spare)}
          height="7"
          fill="var(--wash)"
          stroke="var(--s3)"
        />
      )}
      {right !== null && <rect x={right - 1} y="5" width="2" height="16" fill="var(--color-base-content)" />}
      {right !== null && (
        <path d={`M${at(beyond ? whole : needed) - 4} 3h8l-4 5Z`} fill="var(--color-accent)" />
      )}
    </svg>
  );
}

/** The hatching bars are drawn with; once on a page. */
export function Hatching() {
  return (
    <svg width="0" height="0" className="absolute" aria-hidden="true">
      <pattern id="short" width="5" height="5" patternUnits="userSpaceOnUse" patternTransform="rotate(45)">
        <rect width="5" height="5" fill="var(--rust-2)" />
        <rect width="2" height="5" fill="var(--rust-ink)" />
      </pattern>
    </svg>
  );
}

/** What the shapes mean. */
export function Legend() {
  return (
    <p className="dim flex flex-wrap items-center gap-x-4 text-[12px]">
      <span className="flex items-center gap-1.5">
        <i className="inline-block h-3 w-1.5 bg-[var(--s1)]" /> {t("covered")}
      </span>
      <span className="flex items-center gap-1.5">
        <svg width="12" height="9" aria-hidden="true">
          <rect width="12" height="9" fill="url(#short)" stroke="var(--rust-ink)" />
        </svg>
        {t("short")}
      </span>
      <span className="flex items-center gap-1.5">
        <i className="inline-block h-2 w-3 border border-[var(--s3)] bg-[var(--wash)]" /> {t("spare")}
      </span>
      <span className="flex items-center gap-1.5">
        <i className="inline-block h-3.5 w-0.5 bg-base-content" /> {t("entitled")}
      </span>
      <span className="flex items-center gap-1.5">
        <svg width="9" height="6" aria-hidden="true">
          <path d="M0 0h9L4.500 6Z" fill="var(--color-accent)" />
        </svg>
        {t("needed")}
      </span>
    </p>
  );
}
