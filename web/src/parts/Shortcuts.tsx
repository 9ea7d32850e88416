import { useEffect, useState } from "react";
import { t } from "../words";
import { Dialog } from "./Dialog";
import { undoLast } from "./undo";

const KEYS: [string, string][] = [
  ["a", t("to the ask line")],
  ["↑ ↓", t("through the list")],
  [t("Space"), t("peek at the asset, or close the peek")],
  ["x", t("tick the asset, or untick it")],
  [t("Shift ↑ ↓"), t("tick on the way")],
  [t("Ctrl A"), t("tick all that answer")],
  [t("Ctrl C"), "copy what is ticked as a table"],
  [t("Alt ← →"), t("on a heading: move its column; with Shift size it")],
  ["F2", t("change a cell; Tab goes on to the next")],
  [t("Ctrl Z"), t("undo what was done last")],
  ["Enter", t("open its dossier")],
  [t("Esc"), t("out of what is open")],
  ["← →", t("on the ribbon: a day back, a day on")],
  ["?", t("this sheet")],
];

export function typing(event: KeyboardEvent): boolean {
  const target = event.target as HTMLElement;
  return target.isContentEditable || /^(INPUT|TEXTAREA|SELECT)$/.test(target.tagName);
}

/** The sheet of shortcuts, and the keys that work everywhere. */
export function Shortcuts() {
  const [open, setOpen] = useState(false);
  useEffect(() => {
    const press = (event: KeyboardEvent) => {
      if (typing(event)) return;
      if ((event.ctrlKey || event.metaKey) && event.key === "z" && !event.shiftKey) {
        event.preventDefault();
        undoLast();
      }
      if (event.ctrlKey || event.metaKey || event.altKey) return;
      if (event.key === "?") setOpen(true);
      if (event.key === "a") {
        const line = document.querySelector<HTMLElement>(
          "[data-ask-line] .cm-content, [data-ask-line] input",
        );
        if (line) {
          event.preventDefault();
          line.focus();
        }
      }
    };
    window.addEventListener("keydown", press);
    return () => window.removeEventListener("keydown", press);
  }, []);
  if (!open) return null;
  return (
    <Dialog title={t("Keys")} close={() => setOpen(false)}>
      <dl className="grid grid-cols-[90px_1fr] gap-y-2">
        {KEYS.map(([key, says]) => (
          <div key={key} className="contents">
            <dt>
              <kbd className="kbd kbd-sm">{key}</kbd>
            </dt>
            <dd className="dim">{says}</dd>
          </div>
        ))}
      </dl>
    </Dialog>
  );
}
