import { useState } from "react";
import { toast } from "sonner";
import { t } from "../../words";
import { change, keep, type Waiting as Unsent } from "./store";

const MOST_BYTES = 50_000_000;

/** What was met last, in words: by this phone, then by Tarn. */
export interface Last {
  key: string;
  /** The number Tarn has given it. */
  id: number | null;
  title: string;
  beside: string;
  tag: string;
  says: string;
}

/** What was met last, with a note and a photo: sent with it, or after it where it has been sent by then. */
export function LastMet({
  last,
  count,
  unsent,
  changed,
}: {
  last: Last;
  count: number;
  unsent: Unsent[];
  changed: () => void;
}) {
  const mine = unsent.find((u) => u.key === last.key && u.met === undefined);
  const [note, setNote] = useState("");
  const add = async (more: { note?: string; photo?: ArrayBuffer }) => {
    if (mine) await change({ ...mine, ...more });
    else if (last.id !== null) {
      const met = {
        key: crypto.randomUUID(),
        count,
        how: "tick" as const,
        code: last.title,
        place: "",
        at: 0,
      };
      await keep({ note: "", ...met, ...more, met: last.id });
    }
    setNote("");
    changed();
  };
  return (
    <section className="sheet px-3.5 py-2.5" aria-label={t("Met last")} aria-live="polite">
      <div className="flex items-start gap-2">
        <div className="min-w-0 flex-1">
          <b className="mono text-[14.5px]">{last.title}</b>
          <p className="dim text-[13px]">{last.beside}</p>
        </div>
        <span className={`tag ${last.tag}`}>{last.says}</span>
      </div>
      {(mine || last.id !== null) && (
        <div className="mt-2 grid grid-cols-[1fr_auto_auto] gap-2">
          <input
            className="input input-sm min-w-0"
            aria-label={t("Note")}
            placeholder={t("note")}
            value={note}
            onChange={(e) => setNote(e.target.value)}
          />
          <button
            type="button"
            className="btn btn-sm"
            disabled={!note.trim()}
            onClick={() => void add({ note })}
          >
            {t("Keep")}
          </button>
          <label className="btn btn-sm">
            {t("Photo")}
            <input
              type="file"
              accept="image/*"
              capture="environment"
              className="sr-only"
              onChange={(e) => {
                const photo = e.target.files?.[0];
                e.target.value = "";
                if (!photo) return;
                if (photo.size > MOST_BYTES) toast.error(t("A photo may have 50 MB; this one is larger."));
                else void photo.arrayBuffer().then((bytes) => add({ photo: bytes }));
              }}
            />
          </label>
        </div>
      )}
    </section>
  );
}
