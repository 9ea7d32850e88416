import { useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { toast } from "sonner";
import { client, ok, type Schemas } from "../../api/client";
import { Dialog, Labelled } from "../../parts/Dialog";
import { useDraft } from "../../parts/draft";
import { FormFoot, TextField } from "../../parts/Form";
import { t } from "../../words";

type Branch = Schemas["BranchOut"];
export type Field = Branch["field"];

interface Props {
  field: Field;
  /** What is to be moved; null for a new name, such as a region that several places lie in. */
  branch: Branch | null;
  names: string[];
  close: () => void;
}

/** Put a place, department or person under another. */
export function PlaceDialog({ field: of, branch, names, close }: Props) {
  const queries = useQueryClient();
  const { v, field, attempt, submit, wrong, rest } = useDraft({ name: branch?.name ?? "" });
  const { name } = v;
  const [under, setUnder] = useState(branch?.under ?? "");
  const done = async (said: string) => {
    toast.success(said);
    await queries.invalidateQueries();
    close();
  };
  const save = submit(async () => {
    await ok(client.PUT("/api/branches", { body: { field: of, name, under } }));
    await done(
      under.trim()
        ? t("{{name}} lies under {{under}}.", { name, under })
        : t("{{name}} stands at the top.", { name }),
    );
  });
  const takeOut = async () => {
    await attempt(async () => {
      await ok(client.DELETE("/api/branches", { params: { query: { field: of, name } } }));
      await done(t("{{name}} is out of the tree; devices that say it keep saying it.", { name }));
    });
  };
  return (
    <Dialog
      title={branch ? t("Move {{name}}", { name: branch.name }) : t("New {{of}} in the tree", { of })}
      close={close}
    >
      <form onSubmit={save}>
        {!branch && (
          <TextField
            label={t("Name")}
            {...field("name")}
            hint={t("No device need say it: a {{of}} that only gathers others is as good.", { of })}
            required
          />
        )}
        <Labelled label={t("Lies under")} wrong={wrong("under")} hint={t("Empty: it stands at the top.")}>
          {(id) => (
            <>
              <input
                id={id}
                className="input w-full"
                list={`${id}-names`}
                autoComplete="off"
                value={under}
                onChange={(e) => setUnder(e.target.value)}
              />
              <datalist id={`${id}-names`}>
                {names
                  .filter((n) => n !== name)
                  .map((n) => (
                    <option key={n} value={n} />
                  ))}
              </datalist>
            </>
          )}
        </Labelled>
        {branch && wrong("name") && <p className="mb-2 text-[12.5px] text-error">{wrong("name")}</p>}
        {rest}
        <FormFoot
          close={close}
          drop={branch?.kept ? () => void takeOut() : undefined}
          dropped={t("Take out of the tree")}
          save={branch ? t("Move") : t("Put in the tree")}
        />
      </form>
    </Dialog>
  );
}
