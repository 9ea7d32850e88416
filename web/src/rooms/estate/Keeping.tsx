import { useQuery } from "@tanstack/react-query";
import { Link } from "@tanstack/react-router";
import { asks } from "../../api/asking";
import { client, ok } from "../../api/client";
import { useNarrow } from "../../parts/ask/narrow";
import { inSet } from "../../parts/ask/written";
import { Dialog } from "../../parts/Dialog";
import { useDraft } from "../../parts/draft";
import { FormFoot, TextField } from "../../parts/Form";
import { count, plural } from "../../parts/format";
import { t } from "../../words";
import { recent } from "./recent";

/** The kept sets: choosing one narrows to it. */
export function SetsMenu({ filter, pick }: { filter: string; pick: (filter: string) => void }) {
  const lately = recent()
    .filter((tag) => tag !== filter)
    .slice(0, 6);
  const sets = useQuery(asks("/api/sets"));
  const narrow = useNarrow(filter, pick);
  return (
    <>
      <button
        type="button"
        popoverTarget="sets"
        style={{ anchorName: "--sets" } as React.CSSProperties}
        className="btn h-[36px]"
      >
        {t("Sets")}
      </button>
      <div
        id="sets"
        popover="auto"
        className="dropdown dropdown-end sheet w-72 p-2 shadow-lg"
        style={{ positionAnchor: "--sets" } as React.CSSProperties}
      >
        {sets.data?.map((s) => (
          <button
            key={s.id}
            type="button"
            className="flex w-full items-baseline gap-2 rounded px-2 py-1.5 text-left text-[13px] hover:bg-[var(--head)]"
            onClick={() => {
              document.getElementById("sets")?.hidePopover();
              void narrow(inSet(s.name));
            }}
          >
            <span className="min-w-0 flex-1">
              <b className="block font-semibold">{s.name}</b>
              <span className="faint mono block truncate">{s.filter}</span>
            </span>
            <span className="dim tabular-nums">{count(s.count)}</span>
          </button>
        ))}
        <Link to="/sets" search={{}} className="link-quiet block px-2 py-1.5 text-[13px] font-semibold">
          {t("All sets and phrases")}
        </Link>
        {(
          [
            ["/people", t("People")],
            ["/kinds", t("Kinds and fields")],
            ["/fill-rules", t("Fill rules")],
            ["/tasks", t("Tasks")],
          ] as const
        ).map(([to, label]) => (
          <Link key={to} to={to} search={{}} className="link-quiet block px-2 py-1.5 text-[13px]">
            {label}
          </Link>
        ))}
        {lately.length > 0 && (
          <>
            <p className="faint border-t border-base-300 px-2 pt-2 text-[12px]">{t("Asked lately")}</p>
            {lately.map((text) => (
              <button
                key={text}
                type="button"
                className="mono block w-full truncate rounded px-2 py-1 text-left text-[12.5px] hover:bg-[var(--head)]"
                title={text}
                onClick={() => {
                  document.getElementById("sets")?.hidePopover();
                  pick(text);
                }}
              >
                {text}
              </button>
            ))}
          </>
        )}
        {sets.data?.length === 0 && (
          <p className="dim p-2 text-[13px]">
            {t("No set is kept yet. Ask something, then “Keep as a set”.")}
          </p>
        )}
      </div>
    </>
  );
}

/** Keep what is asked as a live set. */
export function KeepDialog({ filter, close }: { filter: string; close: () => void }) {
  const { v, field, save, rest } = useDraft({ name: "" }, { anew: "sets", close });
  const keep = save(async () => {
    const made = await ok(
      client.POST("/api/sets", {
        body: {
          name: v.name,
          filter,
          kind: "live",
          assets: [],
          picked: "",
          ranges: [],
          folder: "",
          note: "",
          access: "all",
        },
      }),
    );
    return t("“{{name}}” is kept; it holds {{assets}} now and keeps itself up to date.", {
      name: made.name,
      assets: plural(made.count, "asset"),
    });
  });
  return (
    <Dialog title={t("Keep as a set")} close={close}>
      <form onSubmit={keep}>
        <p className="dim mb-3 text-[13px]">
          {t("The set is live: it holds whatever answers")} <span className="mono">{filter}</span>{" "}
          {t("at the time it is asked.")}
        </p>
        <TextField label={t("Name of the set")} autoFocus required {...field("name")} />
        {rest}
        <FormFoot close={close} save={t("Keep")} />
      </form>
    </Dialog>
  );
}
