import { toast } from "sonner";
import type { Schemas } from "../../api/client";
import { plural } from "../format";

export type Pasted = Schemas["PastedOut"];

/** What a pasted column stands for: how many were found, what no device is known by, and what several share. */
export function PastedNote({ pasted, close }: { pasted: Pasted; close: () => void }) {
  const several = Object.entries(pasted.several);
  const copy = () => {
    void navigator.clipboard.writeText(pasted.missing.join("\n"));
    toast.success(`${plural(pasted.missing.length, "word")} copied.`);
  };
  return (
    <div role="status" className="mt-1 rounded-[9px] bg-[var(--wash)] px-3 py-2 text-[13px]">
      <p className="flex flex-wrap items-center gap-x-3">
        <b>{plural(pasted.numbers.length, "device")} of what you pasted, in its order.</b>
        {pasted.missing.length > 0 && <span>{plural(pasted.missing.length, "word")} found nothing.</span>}
        <span className="flex-1" />
        {pasted.missing.length > 0 && (
          <button type="button" className="link-quiet" onClick={copy}>
            Copy what was not found
          </button>
        )}
        <button type="button" className="link-quiet" onClick={close}>
          Close
        </button>
      </p>
      {pasted.missing.length > 0 && (
        <p className="mono mt-1 max-h-[4.5em] overflow-auto">{pasted.missing.join(", ")}</p>
      )}
      {several.map(([word, numbers]) => (
        <p key={word} className="dim mt-1">
          <span className="mono">{word}</span> is shared by {numbers.join(", ")}: all of them are shown.
        </p>
      ))}
    </div>
  );
}
