/** What a finding asks for; the word says it, the colour repeats it. */
import { t, word } from "../words";
export function Grade({ grade }: { grade: string }) {
  const tone = { "act now": "bad", "this week": "warn", "this month": "note" }[grade] ?? "";
  return <span className={`tag ${tone}`}>{word(grade)}</span>;
}

/** How a release stands to an advisory, in the words of VEX. */
export function StatusTag({ status }: { status: string }) {
  const tone = { affected: "bad", fixed: "ok", "under investigation": "warn" }[status] ?? "";
  return <span className={`tag ${tone} whitespace-nowrap`}>{word(status)}</span>;
}

/** That attackers use it. */
export function InUse({ since }: { since: string | null }) {
  return since ? <span className="tag bad">{t("in use")}</span> : null;
}

export const GRADES = ["act now", "this week", "this month", "watch"] as const;
