import { client, ok } from "../../api/client";
import { Dialog } from "../../parts/Dialog";
import { useDraft } from "../../parts/draft";
import { FormFoot, TextField } from "../../parts/Form";
import { t } from "../../words";

interface Props {
  number: number;
  name: string;
  close: () => void;
}

/** Have somebody told who comes to a service and who goes: a report of its members, and a watch on it. */
export function TellForm({ number, name, close }: Props) {
  const { v, field, save, rest, busy } = useDraft({ to: "" }, { close });
  const tell = save(async () => {
    const to = v.to.split(/[\s,;]+/).filter(Boolean);
    await ok(client.POST("/api/services/{number}/watch", { params: { path: { number } }, body: { to } }));
    return t("They are told each morning on which its members are others than before.");
  });
  return (
    <Dialog title={t("Tell who comes to “{{name}}” and who goes", { name })} close={close}>
      <form onSubmit={tell}>
        <TextField
          label={t("To")}
          required
          {...field("to")}
          hint={t(
            "Addresses of mail, parted by commas. It becomes a report and a watch, which can be changed under Reports.",
          )}
        />
        {rest}
        <FormFoot close={close} save={t("Tell them")} busy={busy} />
      </form>
    </Dialog>
  );
}
