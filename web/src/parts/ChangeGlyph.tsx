/** Change glyphs, from spans: a line that begins, one that ends, a step up, a step down, a wave. */
const TONES: Record<string, string> = {
  installed: "warn",
  added: "warn",
  updated: "ok",
  changed: "",
  "rolled back": "bad",
  removed: "",
  renamed: "note",
  started: "ok",
  "signed in": "note",
};

export function ChangeGlyph({ verb }: { verb: string }) {
  return (
    <span className={`tag ${TONES[verb] ?? ""} !px-1`}>
      <svg
        viewBox="0 0 22 14"
        width="22"
        height="14"
        aria-hidden="true"
        fill="none"
        stroke="currentColor"
        strokeWidth="1.8"
      >
        {(verb === "installed" || verb === "added") && (
          <>
            <circle cx="6" cy="7" r="2.6" fill="currentColor" stroke="none" />
            <path d="M6 7h14" />
          </>
        )}
        {verb === "removed" && (
          <>
            <circle cx="16" cy="7" r="2.6" fill="currentColor" stroke="none" />
            <path d="M2 7h14" />
          </>
        )}
        {verb === "updated" && <path d="M2 10.5h9v-7h9" />}
        {verb === "rolled back" && <path d="M2 3.5h9v7h9" />}
        {verb === "started" && <path d="M11 1.5v5M7 3.5a5 5 0 1 0 8 0" />}
        {verb === "signed in" && <path d="M2 7h11M9 3l4 4-4 4M17 2v10" />}
        {(verb === "renamed" || verb === "changed") && <path d="M2 7c3-6 6-6 9 0s6 6 9 0" />}
      </svg>
    </span>
  );
}
