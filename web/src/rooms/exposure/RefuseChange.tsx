import { client, ok } from "../../api/client";
import { Dialog } from "../../parts/Dialog";
import { useDraft } from "../../parts/draft";
import { FormFoot, TextField } from "../../parts/Form";
import { t } from "../../words";
import { type Change, sentenceOf } from "./changing";

/** Refuse a proposed change, with a reason: what it would end stays open, and it comes last. */
export function RefuseChange({ change, close }: { change: Change; close: () => void }) {
  const { v, field, save, rest, busy } = useDraft({ reason: "" }, { close });
  const refuse = save(async () => {
    await ok(client.POST("/api/exposure/change-words", { body: { key: change.key, word: "refuse", ...v } }));
    return t("It is refused, and comes last.");
  });
  return (
    <Dialog title={t("Refuse this change")} close={close}>
      <form onSubmit={refuse}>
        <p className="dim mb-3 text-[13px]">
          {t(
            "{{change}}. What it would end stays open, and late in its time; to leave that open for a while on purpose, accept it on its advisory’s page.",
            { change: sentenceOf(change) },
          )}
        </p>
        <TextField label={t("Why")} required rows={3} {...field("reason")} />
        {rest}
        <FormFoot close={close} save={t("Refuse")} busy={busy} />
      </form>
    </Dialog>
  );
}
