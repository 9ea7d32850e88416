import { useQueryClient } from "@tanstack/react-query";
import { toast } from "sonner";
import { client, ok } from "../../api/client";
import { Dialog } from "../../parts/Dialog";
import { useDraft } from "../../parts/draft";
import { FormFoot, TextField } from "../../parts/Form";
import { t } from "../../words";

interface Props {
  product: string;
  maker: string;
  close: () => void;
}

/** Give a product the name that documents have for it. */
export function NameOutside({ product, maker, close }: Props) {
  const queries = useQueryClient();
  const { field, v, submit, rest } = useDraft({ name: "" });
  const save = submit(async () => {
    await ok(client.POST("/api/exposure/names", { body: { product, maker, name: v.name } }));
    toast.success(t("{{product}} is known by that name from now on, and in the past as well.", { product }));
    await queries.invalidateQueries();
    close();
  });
  return (
    <Dialog title={t("What {{product}} is called outside", { product })} close={close}>
      <form onSubmit={save}>
        <TextField
          label={t("Its name outside")}
          required
          {...field("name")}
          hint={t(
            "A CPE 2.3 name, such as cpe:2.3:a:maker:product, or a package URL, such as pkg:npm/left-hand.",
          )}
        />
        {rest}
        <FormFoot close={close} save={t("Name it")} />
      </form>
    </Dialog>
  );
}
