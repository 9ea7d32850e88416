import { t, word } from "../../words";

const TONES: Record<string, string> = { permitted: "ok", tolerated: "warn", barred: "bad" };

/** What the company says, as a word; the colour only repeats it. */
export function Verdict({ verdict, why, mixed }: { verdict: string; why?: string; mixed?: boolean }) {
  if (!verdict) return null;
  return (
    <span className={`tag ${TONES[verdict] ?? ""}`} title={why}>
      {verdict === "none yet" ? t("no ruling yet") : word(verdict)}
      {mixed && <span className="font-normal">{t("otherwise for some")}</span>}
    </span>
  );
}
