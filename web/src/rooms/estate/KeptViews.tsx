import { useQuery, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { toast } from "sonner";
import { asks, under } from "../../api/asking";
import { client, ok, type Schemas } from "../../api/client";
import { Dialog } from "../../parts/Dialog";
import { useDraft } from "../../parts/draft";
import { type Access, AccessChoice, FormFoot, TextField } from "../../parts/Form";
import { closeMenu, Menu } from "../../parts/Menu";
import { useMay } from "../../parts/me";
import { sayRefused } from "../../parts/refusal";
import { t } from "../../words";

export type KeptView = Schemas["KeptViewOut"];
type Looked = Pick<KeptView, "filter" | "columns" | "sort" | "bands">;

/** Views of the register: how it was looked at, chosen from, kept, kept anew, and let go. */
export function KeptViews({ now, choose }: { now: Looked; choose: (view: KeptView) => void }) {
  const [keeping, setKeeping] = useState(false);
  const mayKeep = useMay("keep");
  const queries = useQueryClient();
  const kept = useQuery(asks("/api/views"));
  const drop = async (view: KeptView) => {
    try {
      await ok(client.DELETE("/api/views/{number}", { params: { path: { number: view.id } } }));
      toast.success(t("The view “{{name}}” is dropped.", { name: view.name }));
      await queries.invalidateQueries(under("views"));
    } catch (error) {
      sayRefused(error, t("It was not dropped."));
    }
  };
  return (
    <>
      <Menu label={t("Views")}>
        {kept.data?.map((view) => (
          <p key={view.id} className="flex items-baseline gap-1 rounded hover:bg-[var(--head)]">
            <button
              type="button"
              className="min-w-0 flex-1 px-2 py-1 text-left text-[13px]"
              onClick={() => {
                closeMenu(t("Views"));
                choose(view);
              }}
            >
              <b className="block font-semibold">{view.name}</b>
              {view.filter && <span className="faint mono block truncate text-[12px]">{view.filter}</span>}
            </button>
            {mayKeep && (
              <button
                type="button"
                className="btn btn-ghost btn-xs"
                aria-label={t("Drop the view {{name}}", { name: view.name })}
                onClick={() => void drop(view)}
              >
                −
              </button>
            )}
          </p>
        ))}
        {kept.data?.length === 0 && (
          <p className="dim px-2 py-1 text-[13px]">
            {t("No view is kept: a question with its columns, order and bands.")}
          </p>
        )}
        {mayKeep && (
          <button
            type="button"
            className="link-quiet mt-1 block px-2 py-1 text-[13px] font-semibold"
            onClick={() => {
              closeMenu(t("Views"));
              setKeeping(true);
            }}
          >
            {t("Keep this view")}
          </button>
        )}
      </Menu>
      {keeping && (
        <KeepView now={now} names={kept.data?.map((v) => v.name) ?? []} close={() => setKeeping(false)} />
      )}
    </>
  );
}

function KeepView({ now, names, close }: { now: Looked; names: string[]; close: () => void }) {
  const { v, field, submit, wrong, rest } = useDraft({ name: "", access: "all" as Access });
  const { name, access } = v;
  const queries = useQueryClient();
  const save = submit(async () => {
    queries.setQueryData(
      asks("/api/views").queryKey,
      await ok(client.POST("/api/views", { body: { ...now, name, access } })),
    );
    toast.success(t("The view “{{name}}” is kept.", { name }));
    close();
  });
  return (
    <Dialog title={t("Keep this view")} close={close}>
      <form onSubmit={save}>
        <p className="dim mb-3 text-[13px]">
          {now.filter ? <span className="mono">{now.filter}</span> : t("The whole register")}
          {t(", with its {{columns}} columns, their order, how it is sorted, and the bands above it.", {
            columns: now.columns.length,
          })}
        </p>
        <TextField
          label={t("Name")}
          {...field("name")}
          wrong={wrong("name") ?? wrong("filter") ?? wrong("bands")}
          list={names}
          hint={names.includes(name.trim()) ? t("There is one of that name: it is kept anew.") : undefined}
          required
        />
        <AccessChoice {...field("access")} />
        {rest}
        <FormFoot close={close} save={t("Keep")} />
      </form>
    </Dialog>
  );
}
