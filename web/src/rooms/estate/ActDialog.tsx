import { useQuery, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { asks } from "../../api/asking";
import { client, ok } from "../../api/client";
import { Dialog, Labelled } from "../../parts/Dialog";
import { Tick } from "../../parts/Form";
import { count, plural } from "../../parts/format";
import { useOwn } from "../../parts/own/own";
import { Problem } from "../../parts/Problem";
import { undoToast } from "../../parts/undo";
import { t } from "../../words";

const FIELDS = [
  ["kind", t("Kind")],
  ["person", t("Holder")],
  ["department", t("Department")],
  ["place", t("Place")],
  ["note", t("Note")],
] as const;
const BANDS = ["kind", "department", "place"];

const split = (text: string) =>
  text
    .split(";")
    .map((tag) => tag.trim())
    .filter(Boolean);

function TagInput(props: { id: string; value: string; set: (value: string) => void; known: string[] }) {
  return (
    <>
      <input
        id={props.id}
        className="input w-full"
        list={`${props.id}-known`}
        autoComplete="off"
        value={props.value}
        onChange={(e) => props.set(e.target.value)}
      />
      <datalist id={`${props.id}-known`}>
        {props.known.map((tag) => (
          <option key={tag} value={tag} />
        ))}
      </datalist>
    </>
  );
}

/** Say the same of a whole selection; shows what it replaces before anything is saved, and can be undone. */
export function ActDialog({ filter, total, close }: { filter: string; total: number; close: () => void }) {
  const queries = useQueryClient();
  const kinds = (useOwn().data?.kinds ?? []).map((k) => k.name);
  const [values, setValues] = useState<Record<string, string>>({});
  const [emptied, setEmptied] = useState<string[]>([]);
  const [add, setAdd] = useState("");
  const [remove, setRemove] = useState("");
  const [error, setError] = useState<unknown>(null);
  const tags = useQuery(asks("/api/tags"));
  const strata = useQuery(asks("/api/strata", { params: { query: { filter, bands: BANDS.join(",") } } }));
  const given = Object.entries(values).filter(([k, v]) => v.trim() && !emptied.includes(k));
  const tagging = Boolean(add.trim() || remove.trim());
  const held = (field: string) => strata.data?.find((b) => b.name === field)?.parts ?? [];
  const save = async (event: React.FormEvent) => {
    event.preventDefault();
    setError(null);
    const again = () => void queries.invalidateQueries();
    const all = { assets: [], filter, expected: total };
    try {
      // Tags first: what is said next may take devices out of the selection.
      if (tagging) {
        const tagged = await ok(
          client.POST("/api/tags", { body: { ...all, add: split(add), remove: split(remove) } }),
        );
        undoToast(
          t("{{devices}} tagged.", { devices: plural(tagged.assets, "device") }),
          tagged.entry,
          again,
        );
      }
      if (emptied.length > 0) {
        const done = await ok(client.POST("/api/empty", { body: { ...all, fields: emptied } }));
        undoToast(
          t("Taken back of {{devices}}.", { devices: plural(done.assets, "device") }),
          done.entry,
          again,
        );
      }
      if (given.length > 0) {
        const facts = Object.fromEntries(given.map(([k, v]) => [k, v.trim()]));
        const done = await ok(client.POST("/api/decide", { body: { ...all, ...facts } }));
        undoToast(
          t("{{devices}} changed, with your name and today’s date.", {
            devices: plural(done.assets, "device"),
          }),
          done.entry,
          again,
        );
      }
      await queries.invalidateQueries();
      close();
    } catch (refused) {
      setError(refused);
    }
  };
  const set = (key: string, value: string) => setValues({ ...values, [key]: value });
  return (
    <Dialog title={t("Change {{devices}}", { devices: plural(total, "device") })} close={close} wide>
      <form onSubmit={save}>
        <p className="dim mb-3 text-[13px]">
          {t("What you fill in is said of all that answer")}{" "}
          {filter ? <span className="mono">{filter}</span> : t("the whole register")}
          {t(
            "; what you leave empty stays. Your word outranks what is read; what you empty loses what anybody said of it, and what is read shows again. States are changed by taking a step.",
          )}
        </p>
        <div className="grid grid-cols-2 gap-x-3">
          {FIELDS.map(([key, label]) => (
            <div key={key}>
              <Labelled
                label={label}
                hint={
                  held(key).length
                    ? `now: ${held(key)
                        .slice(0, 3)
                        .map((p) => `${p.label} ${count(p.count)}`)
                        .join(", ")}${held(key).length > 3 ? " …" : ""}`
                    : undefined
                }
              >
                {(id) =>
                  key === "kind" ? (
                    <select
                      id={id}
                      className="select w-full"
                      disabled={emptied.includes(key)}
                      value={values[key] ?? ""}
                      onChange={(e) => set(key, e.target.value)}
                    >
                      <option value="">{t("leave as it is")}</option>
                      {kinds.map((v) => (
                        <option key={v}>{v}</option>
                      ))}
                    </select>
                  ) : (
                    <input
                      id={id}
                      className="input w-full"
                      placeholder={emptied.includes(key) ? t("emptied") : t("leave as it is")}
                      disabled={emptied.includes(key)}
                      value={values[key] ?? ""}
                      onChange={(e) => set(key, e.target.value)}
                    />
                  )
                }
              </Labelled>
              <Tick
                label={t("Empty it")}
                on={emptied.includes(key)}
                set={(on) => setEmptied(on ? [...emptied, key] : emptied.filter((f) => f !== key))}
              />
            </div>
          ))}
          <Labelled label={t("Give tags")} hint={t("Parted by semicolons; those they have stay.")}>
            {(id) => <TagInput id={id} value={add} set={setAdd} known={Object.keys(tags.data ?? {})} />}
          </Labelled>
          <Labelled label={t("Take tags away")}>
            {(id) => <TagInput id={id} value={remove} set={setRemove} known={Object.keys(tags.data ?? {})} />}
          </Labelled>
        </div>
        {error !== null && <Problem error={error} />}
        <div className="mt-4 flex justify-end gap-2">
          <button type="button" className="btn" onClick={close}>
            {t("Leave")}
          </button>
          <button
            type="submit"
            className="btn btn-primary"
            disabled={given.length === 0 && emptied.length === 0 && !tagging}
          >
            {t("Change {{devices}}", { devices: plural(total, "device") })}
          </button>
        </div>
      </form>
    </Dialog>
  );
}
