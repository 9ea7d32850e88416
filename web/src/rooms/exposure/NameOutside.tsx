import { useQueryClient } from "@tanstack/react-query";
import { toast } from "sonner";
import { client, ok } from "../../api/client";
import { Dialog } from "../../parts/Dialog";
import { useDraft } from "../../parts/draft";
import { FormFoot, TextField } from "../../parts/Form";

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
    toast.success(`${product} is known by that name from now on, and in the past as well.`);
    await queries.invalidateQueries();
    close();
  });
  return (
    <Dialog title={`What ${product} is called outside`} close={close}>
      <form onSubmit={save}>
        <TextField
          label="Its name outside"
          required
          {...field("name")}
          hint="A CPE 2.3 name, such as cpe:2.3:a:maker:product, or a package URL, such as pkg:npm/left-hand."
        />
        {rest}
        <FormFoot close={close} save="Name it" />
      </form>
    </Dialog>
  );
}
