import { t, word } from "../words";
import { Labelled } from "./Dialog";

interface TextProps {
  label: string;
  value: string;
  set: (value: string) => void;
  wrong?: string;
  hint?: string;
  mono?: boolean;
  type?: "text" | "password" | "number" | "date" | "time" | "url";
  required?: boolean;
  placeholder?: string;
  rows?: number;
  autoFocus?: boolean;
  /** Of a number. */
  least?: number;
  most?: number;
  step?: number;
  /** What a browser may fill in; a password that is being set is new unless this says otherwise. */
  complete?: string;
  /** What is offered while typing. */
  list?: string[];
}

/** One line of text, or several where `rows` is given. */
export function TextField(props: TextProps) {
  const shared = {
    value: props.value,
    required: props.required,
    placeholder: props.placeholder,
    autoFocus: props.autoFocus,
    onChange: (e: React.ChangeEvent<HTMLInputElement | HTMLTextAreaElement>) => props.set(e.target.value),
  };
  return (
    <Labelled label={props.label} wrong={props.wrong} hint={props.hint}>
      {(id) =>
        props.rows ? (
          <textarea
            id={id}
            rows={props.rows}
            className={`textarea w-full ${props.mono ? "mono" : ""}`}
            {...shared}
          />
        ) : (
          <>
            <input
              id={id}
              type={props.type ?? "text"}
              autoComplete={props.complete ?? (props.type === "password" ? "new-password" : "off")}
              className={`input w-full ${props.mono ? "mono" : ""}`}
              min={props.least}
              max={props.most}
              step={props.step}
              list={props.list ? `${id}-offered` : undefined}
              {...shared}
            />
            {props.list && (
              <datalist id={`${id}-offered`}>
                {props.list.map((one) => (
                  <option key={one} value={one} />
                ))}
              </datalist>
            )}
          </>
        )
      }
    </Labelled>
  );
}

interface ChoiceProps<T extends string> {
  label: string;
  value: T;
  set: (value: T) => void;
  options: readonly (readonly [T, string])[];
  wrong?: string;
  hint?: string;
}

/** One of a few. */
export function Choice<T extends string>({ label, value, set, options, wrong, hint }: ChoiceProps<T>) {
  return (
    <Labelled label={label} wrong={wrong} hint={hint}>
      {(id) => (
        <select id={id} className="select w-full" value={value} onChange={(e) => set(e.target.value as T)}>
          {options.map(([key, shown]) => (
            <option key={key} value={key}>
              {shown === key ? word(shown) : shown}
            </option>
          ))}
        </select>
      )}
    </Labelled>
  );
}

export function Tick({ label, on, set }: { label: string; on: boolean; set: (on: boolean) => void }) {
  return (
    <label className="mb-3 flex items-center gap-2 text-[13px]">
      <input
        type="checkbox"
        className="checkbox checkbox-sm"
        checked={on}
        onChange={(e) => set(e.target.checked)}
      />
      {label}
    </label>
  );
}

/** The row of buttons at a dialog's foot: what destroys on the left, leaving and saving on the right. */
export function FormFoot(props: {
  close: () => void;
  save?: string;
  drop?: () => void;
  /** What the button to drop says. */
  dropped?: string;
  busy?: boolean;
}) {
  return (
    <div className="mt-3 flex gap-2">
      {props.drop && (
        <button type="button" className="btn text-error" onClick={props.drop}>
          {props.dropped ?? t("Drop")}
        </button>
      )}
      <span className="flex-1" />
      <button type="button" className="btn" onClick={props.close}>
        {t("Leave")}
      </button>
      <button type="submit" className="btn btn-primary" disabled={props.busy}>
        {props.save ?? t("Save")}
      </button>
    </div>
  );
}

export type Access = "all" | "read" | "own";

/** Who may see and change what a person keeps. */
export function AccessChoice(props: { value: Access; set: (value: Access) => void; wrong?: string }) {
  return (
    <Choice
      label={t("Seen and changed by")}
      {...props}
      options={[
        ["all", t("everyone who may keep things")],
        ["read", t("everyone sees it, I change it")],
        ["own", t("only me")],
      ]}
    />
  );
}

/** Since when terms hold that were changed: days before keep the terms they had. */
export function HoldsFrom(props: {
  value: string;
  set: (day: string) => void;
  wrong?: string;
  hint: string;
}) {
  return (
    <TextField
      label={t("These terms hold from")}
      type="date"
      value={props.value}
      set={props.set}
      wrong={props.wrong}
      hint={t("{{hint}} Empty: it was always so.", { hint: props.hint })}
    />
  );
}
