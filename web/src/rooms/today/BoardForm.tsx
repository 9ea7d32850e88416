import { client, ok, type Schemas } from "../../api/client";
import { Dialog } from "../../parts/Dialog";
import { useDraft } from "../../parts/draft";
import { AccessChoice, Choice, FormFoot, TextField } from "../../parts/Form";
import { useMay } from "../../parts/me";
import { t } from "../../words";

type Board = Schemas["BoardOut"];

const ROLES = [
  ["", t("of no role")],
  ["viewer", "viewers"],
  ["operator", "operators"],
  ["manager", "managers"],
  ["administrator", "administrators"],
] as const;

/** A board as a whole: its name, who sees it, whose it is, a copy of it. */
export function BoardForm({ board, close }: { board: Board; close: () => void }) {
  const begun = {
    name: board.ships ? t("{{name}}, mine", { name: board.name }) : board.name,
    access: board.ships ? "own" : board.access,
    role: board.role,
  };
  const { v, field, wrong, set, save, rest, busy } = useDraft(begun, { close, anew: "boards" });
  const mayRole = useMay("people");
  const body = (more: object) =>
    ({
      name: v.name,
      cards: board.cards,
      drawer: board.drawer,
      access: v.access,
      role: v.role,
      ...more,
    }) as Schemas["BoardIn"];
  const keep = save(async () => {
    if (board.ships) await ok(client.POST("/api/boards", { body: body({ role: "" }) }));
    else
      await ok(
        client.PUT("/api/boards/{number}", {
          params: { path: { number: Number(board.key) } },
          body: body({ version: board.version }),
        }),
      );
    return t("“{{name}}” is kept.", { name: v.name });
  });
  const copy = save(async () => {
    await ok(
      client.POST("/api/boards", {
        body: body({ name: t("{{name}}, a copy", { name: v.name }), access: "own", role: "" }),
      }),
    );
    return t("It is copied.");
  });
  const drop = save(async () => {
    await ok(client.DELETE("/api/boards/{number}", { params: { path: { number: Number(board.key) } } }));
    return t("“{{name}}” is dropped.", { name: board.name });
  });
  return (
    <Dialog title={board.ships ? t("A board of your own") : board.name} close={close}>
      <form onSubmit={keep}>
        {board.ships && (
          <p className="dim pb-2 text-[13px]">
            {t("“{{name}}” ships with Tarn and stays as it is. A copy is yours to lay out.", {
              name: board.name,
            })}
          </p>
        )}
        <TextField label={t("Name")} required {...field("name")} />
        <AccessChoice
          value={v.access as "all" | "read" | "own"}
          set={(access) => set({ access })}
          wrong={wrong("access")}
        />
        {mayRole && !board.ships && (
          <Choice
            label={t("First board of")}
            value={v.role as (typeof ROLES)[number][0]}
            set={(role) => set({ role })}
            options={ROLES}
            wrong={wrong("role")}
            hint={t("What they look at as long as they choose no other.")}
          />
        )}
        {rest}
        {!board.ships && (
          <button type="button" className="link-quiet text-[13px] font-semibold" onClick={copy}>
            {t("Copy it")}
          </button>
        )}
        <FormFoot
          close={close}
          busy={busy}
          save={board.ships ? t("Make it mine") : t("Save")}
          drop={board.ships ? undefined : drop}
        />
      </form>
    </Dialog>
  );
}
