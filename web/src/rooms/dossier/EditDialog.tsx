import { client, ok } from "../../api/client";
import { believed, type Claims, type Row } from "../../api/types";
import { Dialog, Labelled } from "../../parts/Dialog";
import { useDraft } from "../../parts/draft";
import { Choice } from "../../parts/Form";
import { useOrganisations } from "../../parts/Organisation";
import { OwnInputs } from "../../parts/own/OwnInputs";
import { fieldsOf, kindWords, shown, useOwn } from "../../parts/own/own";
import { STATES } from "../../parts/states";
import { undoToast } from "../../parts/undo";
import { t, word } from "../../words";

const TEXTS = [
  ["person", t("Holder")],
  ["department", t("Department")],
  ["place", t("Place")],
  ["note", t("Note")],
] as const;

const IN_RACK = [
  ["rack", t("Rack")],
  ["rack_unit", t("Lowest height unit")],
  ["rack_height", t("Height units")],
  ["fed_by", t("Fed by")],
] as const;
/** What the plate does not show: it is read of the claims. */
const CLAIMED: Set<string> = new Set(["importance", ...IN_RACK.map(([key]) => key)]);
const NUMBERS: Set<string> = new Set(["rack_unit", "rack_height"]);

interface Props {
  plate: Row;
  claims: Claims;
  close: () => void;
  saved: () => void;
}

/** What a person says of an asset: it outranks every other source, is dated, and can be taken back. */
export function EditDialog({ plate, claims, close, saved }: Props) {
  const own = useOwn().data;
  const { v, set, submit, wrong, rest } = useDraft({
    kind: String(plate.kind ?? ""),
    state: String(plate.state ?? ""),
    person: String(plate.person ?? ""),
    department: String(plate.department ?? ""),
    organisation: String(plate.organisation ?? ""),
    place: String(plate.place ?? ""),
    note: String(plate.note ?? ""),
    importance: String(believed(claims, "importance") ?? ""),
    rack: String(believed(claims, "rack") ?? ""),
    rack_unit: String(believed(claims, "rack_unit") ?? ""),
    rack_height: String(believed(claims, "rack_height") ?? ""),
    fed_by: String(believed(claims, "fed_by") ?? ""),
    mine: {} as Record<string, string>,
  });
  const { mine, ...values } = v;
  const organisations = useOrganisations().data ?? [];
  const fields = fieldsOf(own, values.kind ?? "");
  const before = (name: string) => {
    const field = own?.fields.find((f) => f.name === name);
    return shown(field && { ...field, unit: "" }, believed(claims, `own:${name}`));
  };
  const told = Object.entries(mine).filter(([name, v]) => v !== before(name));
  const said = (k: string) => String((CLAIMED.has(k) ? believed(claims, k) : plate[k]) ?? "");
  const changed = Object.entries(values).filter(([k, v]) => v !== said(k));
  const save = submit(async () => {
    const facts = Object.fromEntries(changed.map(([k, v]) => [k, sayable(k, v)]));
    const done = await ok(
      client.POST("/api/decide", {
        body: {
          assets: [plate.id],
          own: Object.fromEntries(told.map(([k, v]) => [k, v.trim() || null])),
          ...facts,
        },
      }),
    );
    undoToast(
      t("{{name}}: saved, with your name and today's date.", { name: plate.name ?? plate.number }),
      done.entry,
      saved,
    );
    saved();
  });
  const say = (key: keyof typeof values) => (e: { target: { value: string } }) =>
    set({ [key]: e.target.value });
  return (
    <Dialog title={t("Assign or correct {{name}}", { name: plate.name ?? plate.number })} close={close}>
      <form onSubmit={save}>
        <p className="dim mb-3 text-[13px]">
          {t(
            "What you say outranks what is read. Emptying a field takes your own word back; what other sources say then counts again.",
          )}
        </p>
        <div className="grid grid-cols-2 gap-x-3">
          <Labelled label={t("Kind")}>
            {(id) => (
              <select id={id} className="select w-full" value={values.kind} onChange={say("kind")}>
                <option value="">{t("not known")}</option>
                {(own?.kinds ?? []).map((k) => (
                  <option key={k.name} value={k.name}>
                    {kindWords(k)}
                  </option>
                ))}
              </select>
            )}
          </Labelled>
          {organisations.length > 0 && (
            <Choice
              label={t("Organisation")}
              value={values.organisation ?? ""}
              set={(organisation) => set({ organisation })}
              options={[["", "none"], ...organisations.map((o): [string, string] => [o.name, o.name])]}
            />
          )}
          <Labelled label={t("State")}>
            {(id) => (
              <select id={id} className="select w-full" value={values.state} onChange={say("state")}>
                {[...new Set([values.state ?? "", ...STATES])].map((s) => (
                  <option key={s} value={s}>
                    {word(s) || t("not known")}
                  </option>
                ))}
              </select>
            )}
          </Labelled>
          <Choice
            label={t("Importance")}
            value={values.importance ?? ""}
            set={(importance) => set({ importance })}
            options={[
              ["", t("not said")],
              ["high", t("high: much hangs on it")],
              ["usual", "usual"],
            ]}
          />
          {TEXTS.map(([key, label]) => (
            <Labelled key={key} label={label}>
              {(id) => (
                <input id={id} className="input w-full" value={values[key] ?? ""} onChange={say(key)} />
              )}
            </Labelled>
          ))}
        </div>
        <details className="mt-2" open={IN_RACK.some(([key]) => values[key])}>
          <summary className="cursor-pointer text-[13px]">{t("Rack and power")}</summary>
          <div className="grid grid-cols-2 gap-x-3">
            {IN_RACK.map(([key, label]) => (
              <Labelled key={key} label={label} wrong={wrong(key)}>
                {(id) => (
                  <input
                    id={id}
                    className="input w-full"
                    inputMode={NUMBERS.has(key) ? "numeric" : "text"}
                    placeholder={key === "fed_by" ? t("salt-pdu-01 outlet 3, salt-pdu-02") : undefined}
                    value={values[key] ?? ""}
                    onChange={say(key)}
                  />
                )}
              </Labelled>
            ))}
          </div>
        </details>
        <OwnInputs
          fields={fields}
          values={Object.fromEntries(fields.map((f) => [f.name, mine[f.name] ?? before(f.name)]))}
          set={(mine) => set({ mine })}
          wrong={wrong}
        />
        {rest}
        <div className="mt-4 flex justify-end gap-2">
          <button type="button" className="btn" onClick={close}>
            {t("Leave")}
          </button>
          <button type="submit" className="btn btn-primary" disabled={changed.length + told.length === 0}>
            {t("Save")}
          </button>
        </div>
      </form>
    </Dialog>
  );
}

/** What is typed as it is said: a number where one is meant, so that anything else is refused at its field. */
function sayable(key: string, typed: string): string | number | null {
  const text = typed.trim();
  if (!text) return null;
  return NUMBERS.has(key) && /^-?\d+$/.test(text) ? Number(text) : text;
}
