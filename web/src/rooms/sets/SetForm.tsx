import { useQueryClient } from "@tanstack/react-query";
import { useNavigate } from "@tanstack/react-router";
import { useState } from "react";
import { toast } from "sonner";
import { client, ok, type Schemas } from "../../api/client";
import { Dialog } from "../../parts/Dialog";
import { type Access, AccessChoice, Choice, FormFoot, TextField, useFaults } from "../../parts/Form";

type Kept = Schemas["SetOut"];
type Kind = "live" | "picked" | "address";

/** The kinds of set in words. */
export const KINDS: Record<string, string> = {
  live: "live",
  picked: "picked by hand",
  address: "by addresses",
};

/** Make a live or an address set, or change one; a picked set is made from ticked devices. */
export function SetForm({ held, close }: { held: Kept | null; close: () => void }) {
  const queries = useQueryClient();
  const navigate = useNavigate();
  const [values, setValues] = useState({
    name: held?.name ?? "",
    kind: (held?.kind ?? "live") as Kind,
    filter: held?.filter ?? "",
    ranges: held?.kind === "address" ? held.filter.replace(/address in /g, "").replace(/ or /g, "\n") : "",
    folder: held?.folder ?? "",
    note: held?.note ?? "",
    access: (held?.access ?? "all") as Access,
  });
  const { setError, wrong, rest } = useFaults();
  const set = (change: Partial<typeof values>) => setValues({ ...values, ...change });
  const finish = async (said: string) => {
    toast.success(said);
    await queries.invalidateQueries();
    close();
  };
  const save = async (event: React.FormEvent) => {
    event.preventDefault();
    setError(null);
    const body = {
      name: values.name,
      kind: values.kind === "picked" ? ("live" as const) : values.kind,
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
    try {
      if (held) await ok(client.PUT("/api/sets/{number}", { params: { path: { number: held.id } }, body }));
      else await ok(client.POST("/api/sets", { body }));
      await finish(`“${values.name}” is kept.`);
    } catch (refused) {
      setError(refused);
    }
  };
  const drop = async () => {
    if (!held || !window.confirm(`Drop the set “${held.name}”? The devices stay.`)) return;
    try {
      await ok(client.DELETE("/api/sets/{number}", { params: { path: { number: held.id } } }));
      await finish(`“${held.name}” is dropped.`);
      await navigate({ to: "/sets", search: {} });
    } catch (refused) {
      setError(refused);
    }
  };
  return (
    <Dialog title={held ? `Change ${held.name}` : "New set"} close={close}>
      <form onSubmit={save}>
        <TextField
          label="Name"
          value={values.name}
          set={(name) => set({ name })}
          wrong={wrong("name")}
          required
        />
        {!held && (
          <Choice
            label="Kind"
            value={values.kind}
            set={(kind) => set({ kind })}
            options={[
              ["live", "live: whatever answers a filter"],
              ["address", "by addresses"],
            ]}
            hint="A set picked by hand is made from ticked devices of the register."
          />
        )}
        {values.kind === "address" ? (
          <TextField
            label="Ranges"
            mono
            rows={4}
            value={values.ranges}
            set={(ranges) => set({ ranges })}
            wrong={wrong("ranges")}
            placeholder="10.60.4.0/24"
            hint="One a line: a network, or from–to."
          />
        ) : (
          values.kind !== "picked" && (
            <TextField
              label="Filter"
              mono
              rows={3}
              value={values.filter}
              set={(filter) => set({ filter })}
              wrong={wrong("filter")}
            />
          )
        )}
        <TextField
          label="Folder"
          value={values.folder}
          set={(folder) => set({ folder })}
          hint="Folders within folders: Ticketing/Kiosks."
        />
        <TextField label="Note" value={values.note} set={(note) => set({ note })} />
        <AccessChoice value={values.access} set={(access) => set({ access })} wrong={wrong("access")} />
        {rest}
        <FormFoot close={close} drop={held ? () => void drop() : undefined} />
      </form>
    </Dialog>
  );
}
