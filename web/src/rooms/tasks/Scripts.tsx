import { useQuery, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { toast } from "sonner";
import { asks, under } from "../../api/asking";
import { client, ok, type Schemas } from "../../api/client";
import { Dialog } from "../../parts/Dialog";
import { useDraft } from "../../parts/draft";
import { Choice, FormFoot, TextField } from "../../parts/Form";
import { useMay, useMe } from "../../parts/me";
import { Problem } from "../../parts/Problem";
import { Sheet, useDone } from "../../parts/Sheet";
import { Table } from "../../parts/table/Table";
import { t } from "../../words";

type Script = Schemas["ScriptOut"];
type Platform = Schemas["ScriptIn"]["platform"];

/** The list of scripts that tasks may run: one administrator writes, another reviews. */
export function Scripts() {
  const me = useMe().data;
  const may = useMay("scripts");
  const done = useDone("scripts");
  const [open, setOpen] = useState<Script | "new" | null>(null);
  const asked = useQuery(asks("/api/scripts"));
  if (asked.error) return <Problem error={asked.error} />;
  const review = (s: Script) =>
    done(
      () =>
        ok(
          client.POST("/api/scripts/{number}/review", {
            params: { path: { number: s.id } },
            body: { version: s.version },
          }),
        ),
      t("“{{name}}” may be run now.", { name: s.name }),
    );
  return (
    <Sheet
      id="scripts"
      title={t("Scripts")}
      hint={t("one administrator writes, another reviews; a changed script is reviewed anew")}
      actions={
        may && (
          <button type="button" className="btn btn-sm" onClick={() => setOpen("new")}>
            {t("New script")}
          </button>
        )
      }
    >
      {asked.data?.length === 0 ? (
        <p className="dim px-3.5 pb-3 text-[13px]">
          {t("None yet. A script of the list is all that can be run freely on devices.")}
        </p>
      ) : (
        <Table
          list="scripts"
          label={t("Scripts")}
          rows={asked.data ?? []}
          rowKey={(s) => s.id}
          columns={[
            {
              key: "script",
              label: t("Script"),
              of: (s) => s.name,
              cell: (s) => (
                <>
                  <b className="font-semibold">{s.name}</b>
                  <span className="faint block">{s.meaning}</span>
                </>
              ),
              className: "w-[24%]",
            },
            { key: "for", label: t("For"), of: (s) => s.platform },
            {
              key: "text",
              label: t("Text"),
              of: (s) => s.text,
              cell: (s) => <pre className="mono max-h-24 overflow-auto whitespace-pre-wrap">{s.text}</pre>,
            },
            {
              key: "reviewed",
              label: t("Reviewed"),
              of: (s) => s.reviewed_by,
              cell: (s) =>
                s.reviewed_by ? (
                  <span className="tag ok">{t("by {{reviewed_by}}", { reviewed_by: s.reviewed_by })}</span>
                ) : (
                  <span className="tag warn">
                    {t("written by {{written_by}}, not reviewed", { written_by: s.written_by })}
                  </span>
                ),
            },
            {
              key: "do",
              label: "",
              cell: (s) => (
                <>
                  {may && !s.reviewed_by && s.written_by !== me?.username && (
                    <button
                      type="button"
                      className="link-quiet mr-3 font-semibold"
                      onClick={() => void review(s)}
                    >
                      {t("Pass it for use")}
                    </button>
                  )}
                  {may && (
                    <button type="button" className="link-quiet font-semibold" onClick={() => setOpen(s)}>
                      {t("Change")}
                    </button>
                  )}
                </>
              ),
              className: "text-right whitespace-nowrap",
            },
          ]}
        />
      )}
      {open && <ScriptForm held={open === "new" ? null : open} close={() => setOpen(null)} />}
    </Sheet>
  );
}

function ScriptForm({ held, close }: { held: Script | null; close: () => void }) {
  const queries = useQueryClient();
  const { v, field, attempt, submit, rest } = useDraft({
    name: held?.name ?? "",
    platform: (held?.platform as Platform) ?? ("Linux" as Platform),
    text: held?.text ?? "",
    meaning: held?.meaning ?? "",
  });
  const { name, platform, text, meaning } = v;
  const finish = async (said: string) => {
    await queries.invalidateQueries(under("scripts"));
    toast.success(said);
    close();
  };
  const save = submit(async () => {
    const body = { name, platform, text, meaning, version: held?.version ?? 0 };

    if (held) await ok(client.PUT("/api/scripts/{number}", { params: { path: { number: held.id } }, body }));
    else await ok(client.POST("/api/scripts", { body }));
    await finish(t("“{{name}}” is on the list; another administrator has to review it.", { name }));
  });
  const drop = async () => {
    if (
      !held ||
      !window.confirm(
        t("Drop “{{name}}”? Tasks that ran it keep its text. This is final.", { name: held.name }),
      )
    )
      return;
    await attempt(async () => {
      await ok(client.DELETE("/api/scripts/{number}", { params: { path: { number: held.id } } }));
      await finish(t("“{{name}}” is dropped.", { name: held.name }));
    });
  };
  return (
    <Dialog title={held ? t("Change “{{name}}”", { name: held.name }) : t("New script")} close={close} wide>
      <form onSubmit={save}>
        <div className="grid grid-cols-2 gap-x-3">
          <TextField label={t("Name")} {...field("name")} required />
          <Choice
            label={t("For")}
            {...field("platform")}
            options={[
              ["Linux", t("Linux, a shell as root")],
              ["macOS", t("macOS, a shell as root")],
              ["Windows", t("Windows, PowerShell")],
            ]}
          />
        </div>
        <TextField label={t("What it is for")} {...field("meaning")} />
        <TextField label={t("Text")} rows={10} mono {...field("text")} />
        {rest}
        <FormFoot close={close} drop={held ? drop : undefined} />
      </form>
    </Dialog>
  );
}
