import type { Schemas } from "../api/client";
import { Choice, TextField } from "./Form";

type Setting = Schemas["SettingOut"];

/** What a form's settings are unless somebody says otherwise. */
export function usual(form: Setting[] | undefined): Record<string, unknown> {
  const said = (form ?? []).filter((one) => one.usual !== "");
  return Object.fromEntries(said.map((one) => [one.name, one.usual]));
}

interface SettingProps {
  setting: Setting;
  value: unknown;
  set: (value: string | number) => void;
  wrong?: string;
}

/** One setting of a kind of source or feed, as its description says. */
export function SettingField({ setting, value, set, wrong }: SettingProps) {
  const shown = String(value ?? setting.usual);
  if (setting.type === "choice") {
    return (
      <Choice
        label={setting.label}
        value={shown}
        set={set}
        options={setting.options.map((o) => [o, o] as const)}
        wrong={wrong}
      />
    );
  }
  const isNumber = setting.type === "number";
  return (
    <TextField
      label={setting.label}
      mono
      type={isNumber ? "number" : "text"}
      required={Boolean(setting.needed)}
      value={shown}
      set={(text) => set(isNumber && text !== "" ? Number(text) : text)}
      wrong={wrong}
    />
  );
}
