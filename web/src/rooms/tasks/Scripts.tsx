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
      `“${s.name}” may be run now.`,
    );
  return (
    <Sheet
      id="scripts"
      title="Scripts"
      hint="one administrator writes, another reviews; a changed script is reviewed anew"
      actions={
        may && (
          <button type="button" className="btn btn-sm" onClick={() => setOpen("new")}>
            New script
          </button>
        )
      }
    >
      {asked.data?.length === 0 ? (
        <p className="dim px-3.5 pb-3 text-[13px]">
          None yet. A script of the list is all that can be run freely on devices.
        </p>
      ) : (
        <Table
          list="scripts"
          label="Scripts"
          rows={asked.data ?? []}
          rowKey={(s) => s.id}
          columns={[
            {
              key: "script",
              label: "Script",
              of: (s) => s.name,
              cell: (s) => (
                <>
                  <b className="font-semibold">{s.name}</b>
                  <span className="faint block">{s.meaning}</span>
                </>
              ),
              className: "w-[24%]",
            },
            { key: "for", label: "For", of: (s) => s.platform },
            {
              key: "text",
              label: "Text",
              of: (s) => s.text,
              cell: (s) => <pre className="mono max-h-24 overflow-auto whitespace-pre-wrap">{s.text}</pre>,
            },
            {
              key: "reviewed",
              label: "Reviewed",
              of: (s) => s.reviewed_by,
              cell: (s) =>
                s.reviewed_by ? (
                  <span className="tag ok">by {s.reviewed_by}</span>
                ) : (
                  <span className="tag warn">written by {s.written_by}, not reviewed</span>
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
                      Pass it for use
                    </button>
                  )}
                  {may && (
                    <button type="button" className="link-quiet font-semibold" onClick={() => setOpen(s)}>
                      Change
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
    await finish(`“${name}” is on the list; another administrator has to review it.`);
  });
  const drop = async () => {
    if (!held || !window.confirm(`Drop “${held.name}”? Tasks that ran it keep its text. This is final.`))
      return;
    await attempt(async () => {
      await ok(client.DELETE("/api/scripts/{number}", { params: { path: { number: held.id } } }));
      await finish(`“${held.name}” is dropped.`);
    });
  };
  return (
    <Dialog title={held ? `Change “${held.name}”` : "New script"} close={close} wide>
      <form onSubmit={save}>
        <div className="grid grid-cols-2 gap-x-3">
          <TextField label="Name" {...field("name")} required />
          <Choice
            label="For"
            {...field("platform")}
            options={[
              ["Linux", "Linux, a shell as root"],
              ["macOS", "macOS, a shell as root"],
              ["Windows", "Windows, PowerShell"],
            ]}
          />
        </div>
        <TextField label="What it is for" {...field("meaning")} />
        <TextField label="Text" rows={10} mono {...field("text")} />
        {rest}
        <FormFoot close={close} drop={held ? drop : undefined} />
      </form>
    </Dialog>
  );
}
