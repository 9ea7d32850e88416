import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { asks } from "../../api/asking";
import { client, ok, type Schemas } from "../../api/client";
import { Dialog } from "../../parts/Dialog";
import { useDraft } from "../../parts/draft";
import { FormFoot } from "../../parts/Form";
import { STATES } from "../../parts/states";
import { t, word } from "../../words";

type Book = Schemas["BookOut"];
type Step = Schemas["StepRow"];

/** The steps between states: from where each may be taken, where it leads, what it needs. */
export function StepBook({ close }: { close: () => void }) {
  const asked = useQuery(asks("/api/lifecycle/steps"));
  if (!asked.data) return null;
  return <Editor key={asked.data.version} book={asked.data} close={close} />;
}

function Editor({ book, close }: { book: Book; close: () => void }) {
  const { save, wrong, rest } = useDraft({}, { anew: "lifecycle", close });
  const [steps, setSteps] = useState<Step[]>(book.steps);
  const change = (at: number, values: Partial<Step>) =>
    setSteps(steps.map((s, n) => (n === at ? { ...s, ...values } : s)));
  const send = (rows: Step[], said: string) =>
    save(async () => {
      await ok(client.PUT("/api/lifecycle/steps", { body: { steps: rows, version: book.version } }));
      return said;
    });
  return (
    <Dialog title={t("Steps between states")} close={close} wide>
      <form onSubmit={send(steps, t("The steps are changed."))}>
        <p className="dim pb-2 text-[13px]">
          {t("{{which}} A state a step does not begin from does not offer it.", {
            which: book.own
              ? t("These are your own.")
              : t("These ship with Tarn; changing one makes the book your own."),
          })}
        </p>
        <div className="max-h-[56vh] space-y-2 overflow-auto pr-1">
          {steps.map((s, n) => (
            <details key={`${n}`} className="rounded border border-base-300 px-3 py-1.5 text-[13px]">
              <summary className="cursor-pointer">
                <b className="font-semibold">{s.name || t("a new step")}</b>{" "}
                <span className="dim">
                  {s.begins.map((b) => b || t("no state")).join(", ")} → {s.to}
                </span>
              </summary>
              <div className="grid gap-2 pt-2 sm:grid-cols-2">
                <label className="block">
                  <span className="font-semibold">{t("Name")}</span>
                  <input
                    className="input input-sm w-full"
                    value={s.name}
                    onChange={(e) => change(n, { name: e.target.value })}
                  />
                </label>
                <label className="block">
                  <span className="font-semibold">{t("Leads to")}</span>
                  <select
                    className="select select-sm w-full"
                    value={s.to}
                    onChange={(e) => change(n, { to: e.target.value })}
                  >
                    {STATES.map((state) => (
                      <option key={state} value={state}>
                        {word(state)}
                      </option>
                    ))}
                  </select>
                </label>
              </div>
              <Ticks
                legend={t("May be taken from")}
                all={["", ...STATES].map((x) => [x, word(x) || t("no state")])}
                chosen={s.begins}
                set={(begins) => change(n, { begins })}
              />
              <Ticks
                legend={t("Needs")}
                all={Object.entries(book.needs)}
                chosen={s.needs ?? []}
                set={(needs) => change(n, { needs })}
              />
              <Ticks
                legend={t("Takes away")}
                all={book.clears.map((c) => [c, c.replace("_", " ")])}
                chosen={s.clears ?? []}
                set={(clears) => change(n, { clears })}
              />
              <label className="block pt-2">
                <span className="font-semibold">{t("Hand-overs")}</span>
                <select
                  className="select select-sm w-full"
                  value={s.hands}
                  onChange={(e) => change(n, { hands: e.target.value })}
                >
                  <option value="">{t("left alone")}</option>
                  <option value="gives">{t("it hands over")}</option>
                  <option value="returns">{t("it ends a hand-over")}</option>
                </select>
              </label>
              <button
                type="button"
                className="link-quiet mt-1.5 font-semibold"
                onClick={() => setSteps(steps.filter((_, m) => m !== n))}
              >
                {t("Drop this step")}
              </button>
            </details>
          ))}
        </div>
        <button
          type="button"
          className="btn btn-sm mt-2"
          onClick={() =>
            setSteps([...steps, { name: "", begins: [], to: "in use", needs: [], clears: [], hands: "" }])
          }
        >
          {t("Another step")}
        </button>
        {wrong("steps") && (
          <p role="alert" className="mt-2 text-[12.5px] font-semibold text-error">
            {wrong("steps")}
          </p>
        )}
        {rest}
        <FormFoot
          close={close}
          drop={book.own ? () => void send([], t("The steps that ship are back."))() : undefined}
          dropped={t("Bring back what ships")}
        />
      </form>
    </Dialog>
  );
}

function Ticks(props: {
  legend: string;
  all: (readonly [string, string] | string[])[];
  chosen: string[];
  set: (chosen: string[]) => void;
}) {
  return (
    <fieldset className="pt-2">
      <legend className="font-semibold">{props.legend}</legend>
      <div className="flex flex-wrap gap-x-4 gap-y-1">
        {props.all.map(([key = "", words]) => (
          <label key={key} className="flex items-center gap-1.5">
            <input
              type="checkbox"
              className="checkbox checkbox-xs"
              checked={props.chosen.includes(key)}
              onChange={(e) =>
                props.set(e.target.checked ? [...props.chosen, key] : props.chosen.filter((c) => c !== key))
              }
            />
            {words}
          </label>
        ))}
      </div>
    </fieldset>
  );
}
