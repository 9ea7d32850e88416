import { toast } from "sonner";
import type { Schemas } from "../../api/client";
import { t } from "../../words";
import { plural } from "../format";

export type Pasted = Schemas["PastedOut"];

/** What a pasted column stands for: how many were found, what no device is known by, and what several share. */
export function PastedNote({ pasted, close }: { pasted: Pasted; close: () => void }) {
  const several = Object.entries(pasted.several);
  const copy = () => {
    void navigator.clipboard.writeText(pasted.missing.join("\n"));
    toast.success(t("{{words}} copied.", { words: plural(pasted.missing.length, "word") }));
  };
  return (
    <div role="status" className="mt-1 rounded-[9px] bg-[var(--wash)] px-3 py-2 text-[13px]">
      <p className="flex flex-wrap items-center gap-x-3">
        <b>
          {t("{{devices}} of what you pasted, in its order.", {
            devices: plural(pasted.numbers.length, "device"),
          })}
        </b>
        {pasted.missing.length > 0 && (
          <span>{t("{{words}} found nothing.", { words: plural(pasted.missing.length, "word") })}</span>
        )}
        <span className="flex-1" />
        {pasted.missing.length > 0 && (
          <button type="button" className="link-quiet" onClick={copy}>
            {t("Copy what was not found")}
          </button>
        )}
        <button type="button" className="link-quiet" onClick={close}>
          {t("Close")}
        </button>
      </p>
      {pasted.missing.length > 0 && (
        <p className="mono mt-1 max-h-[4.5em] overflow-auto">{pasted.missing.join(", ")}</p>
      )}
      {several.map(([word, numbers]) => (
        <p key={word} className="dim mt-1">
          <span className="mono">{word}</span>{" "}
          {t("is shared by {{numbers}}: all of them are shown.", { numbers: numbers.join(", ") })}
        </p>
      ))}
    </div>
  );
}
