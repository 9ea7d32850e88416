/** Evidence marks: a shape a source kind, so that colour is never needed to tell them apart. */
import { t } from "../words";

const SHAPES: Record<string, { shape: string; says: string }> = {
  sweep: { shape: "circle", says: t("a sweep") },
  reporter: { shape: "square", says: t("an installed reporter") },
  outpost: { shape: "square", says: t("an outpost") },
  directory: { shape: "triangle", says: t("a directory") },
  hand: { shape: "ring", says: t("a person's hand") },
  rule: { shape: "target", says: t("a fill rule") },
  guess: { shape: "dotted", says: t("worked out, not stated") },
  file: { shape: "bar", says: t("a file") },
};

export function sourceWords(kind: string): string {
  return SHAPES[kind]?.says ?? `a ${kind}`;
}

export function EvidenceMark({ kind }: { kind: string }) {
  const { shape } = SHAPES[kind] ?? { shape: "diamond" };
  return (
    <svg
      viewBox="0 0 11 11"
      width="11"
      height="11"
      role="img"
      aria-label={sourceWords(kind)}
      className="inline-block"
    >
      <title>{sourceWords(kind)}</title>
      {shape === "circle" && <circle cx="5.5" cy="5.5" r="4.5" fill="var(--color-info)" />}
      {shape === "square" && <rect x="1" y="1" width="9" height="9" rx="2" fill="var(--color-info)" />}
      {shape === "triangle" && <path d="M5.5.6 10.6 10H.4Z" fill="var(--color-secondary)" />}
      {shape === "diamond" && <path d="M5.5.5 10.5 5.5 5.5 10.5.5 5.5Z" fill="var(--record)" />}
      {shape === "bar" && <path d="M1 3h9M1 5.5h9M1 8h6" stroke="var(--record)" strokeWidth="1.7" />}
      {shape === "ring" && (
        <circle cx="5.5" cy="5.5" r="3.8" fill="none" stroke="var(--ink-2)" strokeWidth="2" />
      )}
      {shape === "target" && (
        <>
          <circle cx="5.5" cy="5.5" r="4.2" fill="none" stroke="var(--ink-2)" strokeWidth="1.4" />
          <circle cx="5.5" cy="5.5" r="1.6" fill="var(--ink-2)" />
        </>
      )}
      {shape === "dotted" && (
        <circle
          cx="5.5"
          cy="5.5"
          r="4"
          fill="none"
          stroke="var(--ink-3)"
          strokeWidth="1.5"
          strokeDasharray="2 1.6"
        />
      )}
    </svg>
  );
}

export function EvidenceMarks({ kinds }: { kinds: string[] }) {
  return (
    <span className="inline-flex items-center gap-1 align-middle">
      {[...new Set(kinds)].map((k) => (
        <EvidenceMark key={k} kind={k} />
      ))}
    </span>
  );
}
