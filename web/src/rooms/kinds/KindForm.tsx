import { useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { toast } from "sonner";
import { client, ok } from "../../api/client";
import { Dialog } from "../../parts/Dialog";
import { useDraft } from "../../parts/draft";
import { Choice, FormFoot, TextField, Tick } from "../../parts/Form";
import { fieldsOf, type Own, type OwnKind } from "../../parts/own/own";
import { t } from "../../words";

const ICONS = ["", "⚓", "⚙", "☎", "⌨", "⛟", "⚡", "❄", "☀", "✂", "⌂", "⚖"];

/** Make or change a kind: what it stands below, what it is called elsewhere, which fields it does not have. */
export function KindForm({ held, own, close }: { held: OwnKind | null; own: Own; close: () => void }) {
  const queries = useQueryClient();
  const { v, field, attempt, submit, rest } = useDraft({
    name: held?.name ?? "",
    parent: held?.parent ?? "",
    icon: held?.icon ?? "",
    names: Object.entries(held?.names ?? {})
      .map(([k, v]) => `${k}: ${v}`)
      .join("\n"),
  });
  const { name, parent, icon, names } = v;
  const [hidden, setHidden] = useState<string[]>(held?.hidden ?? []);
  const inherited = parent ? fieldsOf(own, parent) : own.fields.filter((f) => f.kinds.length === 0);
  const finish = async (said: string) => {
    await queries.invalidateQueries();
    toast.success(said);
    close();
  };
  const save = submit(async () => {
    const pairs = names
      .split("\n")
      .map((l) => l.split(/:(.*)/).map((p) => p.trim()))
      .filter((p) => p[0] && p[1]);
    const body = {
      name,
      parent,
      icon,
      names: Object.fromEntries(pairs) as Record<string, string>,
      hidden,
      version: held?.version ?? 0,
    };

    if (held?.id)
      await ok(client.PUT("/api/kinds/{number}", { params: { path: { number: held.id } }, body }));
    else await ok(client.POST("/api/kinds", { body }));
    await finish(t("The kind “{{name}}” is {{which}}.", { name, which: held ? t("changed") : t("made") }));
  });
  const drop = async () => {
    if (!held?.id) return;
    const number = held.id;
    await attempt(async () => {
      await ok(client.DELETE("/api/kinds/{number}", { params: { path: { number } } }));
      await finish(t("“{{name}}” is dropped; the audit trail can bring it back.", { name: held.name }));
    });
  };
  return (
    <Dialog title={held ? t("Change “{{name}}”", { name: held.name }) : t("New kind")} close={close}>
      <form onSubmit={save}>
        <div className="grid grid-cols-2 gap-x-3">
          {!held && <TextField label={t("Name")} {...field("name")} required />}
          <Choice
            label={t("Stands below")}
            {...field("parent")}
            options={[
              ["", t("nothing: at the top")],
              ...own.kinds
                .filter((k) => k.name !== held?.name)
                .map((k): [string, string] => [k.name, k.name]),
            ]}
          />
          <Choice
            label={t("Sign")}
            {...field("icon")}
            options={ICONS.map((i): [string, string] => [i, i || "none"])}
          />
        </div>
        <TextField
          label={t("Called in other languages")}
          rows={2}
          {...field("names")}
          placeholder={t("nb: vinsj\nde: Winde")}
          hint={t("A line a language: its tag, a colon, the name.")}
        />
        {inherited.length > 0 && (
          <fieldset>
            <legend className="pb-1 text-[13px] font-semibold">{t("Fields it has from above")}</legend>
            {inherited.map((f) => (
              <Tick
                key={f.name}
                label={f.name}
                on={!hidden.includes(f.name)}
                set={(on) => setHidden(on ? hidden.filter((h) => h !== f.name) : [...hidden, f.name])}
              />
            ))}
          </fieldset>
        )}
        {rest}
        <FormFoot close={close} drop={held ? drop : undefined} />
      </form>
    </Dialog>
  );
}
