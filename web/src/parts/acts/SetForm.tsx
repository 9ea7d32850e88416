import { useQueryClient } from "@tanstack/react-query";
import { useNavigate } from "@tanstack/react-router";
import { toast } from "sonner";
import { client, ok, type Schemas } from "../../api/client";
import { t } from "../../words";
import { FilterField } from "../ask/FilterField";
import { Dialog } from "../Dialog";
import { useDraft } from "../draft";
import { type Access, AccessChoice, Choice, FormFoot, TextField } from "../Form";

type Kept = Schemas["SetOut"];
type Kind = "live" | "picked" | "address";

/** The kinds of set in words. */
export const KINDS: Record<string, string> = {
  live: "live",
  picked: t("picked by hand"),
  address: t("by addresses"),
};

/** Make a set, or change one; `picked`: the numbers of devices ticked elsewhere. */
export function SetForm(props: { held: Kept | null; picked?: string[]; close: () => void }) {
  const { held, picked, close } = props;
  const queries = useQueryClient();
  const navigate = useNavigate();
  const {
    v: values,
    field,
    attempt,
    submit,
    wrong,
    rest,
  } = useDraft({
    name: held?.name ?? "",
    kind: (held?.kind ?? (picked ? "picked" : "live")) as Kind,
    picked: (held?.kind === "picked" ? held.members : (picked ?? [])).join("\n"),
    filter: held?.filter ?? "",
    ranges: held?.kind === "address" ? held.members.join("\n") : "",
    folder: held?.folder ?? "",
    note: held?.note ?? "",
    access: (held?.access ?? "all") as Access,
  });
  const finish = async (said: string) => {
    toast.success(said);
    await queries.invalidateQueries();
    close();
  };
  const save = submit(async () => {
    const body = {
      name: values.name,
      kind: values.kind,
      picked: values.kind === "picked" ? values.picked : "",
      filter: values.filter,
      ranges: values.ranges
        .split(/[\n,]+/)
        .map((r) => r.trim())
        .filter(Boolean),
      assets: [],
      folder: values.folder,
      note: values.note,
      access: values.access,
      version: held?.version,
    };

    if (held) await ok(client.PUT("/api/sets/{number}", { params: { path: { number: held.id } }, body }));
    else await ok(client.POST("/api/sets", { body }));
    await finish(t("“{{name}}” is kept.", { name: values.name }));
  });
  const drop = async () => {
    if (!held || !window.confirm(t("Drop the set “{{name}}”? The devices stay.", { name: held.name })))
      return;
    await attempt(async () => {
      await ok(client.DELETE("/api/sets/{number}", { params: { path: { number: held.id } } }));
      await finish(t("“{{name}}” is dropped.", { name: held.name }));
      await navigate({ to: "/sets", search: {} });
    });
  };
  return (
    <Dialog title={held ? t("Change {{name}}", { name: held.name }) : t("New set")} close={close}>
      <form onSubmit={save}>
        <TextField label={t("Name")} {...field("name")} required />
        {!held && (
          <Choice
            label={t("Kind")}
            {...field("kind")}
            options={[
              ["live", t("live: whatever answers a filter")],
              ["picked", t("picked by hand")],
              ["address", t("by addresses")],
            ]}
          />
        )}
        {values.kind === "picked" ? (
          <TextField
            label={t("Devices")}
            mono
            rows={6}
            {...field("picked")}
            wrong={wrong("picked") || wrong("assets")}
            hint={t(
              "Asset numbers, names or serial numbers, one a line or parted by commas; up to 5,000. Ticked in the register, they stand here.",
            )}
            required
          />
        ) : values.kind === "address" ? (
          <TextField
            label={t("Ranges")}
            mono
            rows={4}
            {...field("ranges")}
            placeholder="10.60.4.0/24"
            hint={t("One a line: a network, or from–to.")}
          />
        ) : (
          <FilterField label={t("Filter")} rows={3} {...field("filter")} />
        )}
        <TextField
          label={t("Folder")}
          {...field("folder")}
          hint={t("Folders within folders: Ticketing/Kiosks.")}
        />
        <TextField label={t("Note")} {...field("note")} />
        <AccessChoice {...field("access")} />
        {rest}
        <FormFoot close={close} drop={held ? () => void drop() : undefined} />
      </form>
    </Dialog>
  );
}
