import { useState } from "react";
import { t } from "../words";
import { Choice, TextField } from "./Form";
import { type Chosen, chosen, DAY_WORDS, DAYS, type Every, ruleOf } from "./schedule";

const EVERY: [Every, string][] = [
  ["hours", t("every few hours")],
  ["day", t("every day")],
  ["days", t("on days of the week")],
  ["month", t("once a month")],
  ["rule", t("by a recurrence rule")],
];

interface Props {
  label: string;
  rule: string;
  set: (rule: string) => void;
  /** What no schedule is called; left out where there must be one. */
  none?: string;
  wrong?: string;
  hint?: string;
}

/** When something is done by itself: chosen, not typed. Times are the company's. */
export function Schedule({ label, rule, set, none, wrong, hint }: Props) {
  const [held, setHeld] = useState<Chosen>(() => chosen(rule));
  const change = (by: Partial<Chosen>) => {
    const next = { ...held, ...by };
    if (next.every === "month") next.number = Math.min(28, Math.max(1, next.number));
    if (next.every === "hours") next.number = Math.min(24, Math.max(1, next.number));
    setHeld(next);
    if (next.every !== "rule") set(ruleOf(next));
  };
  const timed = held.every === "day" || held.every === "days" || held.every === "month";
  return (
    <fieldset className="min-w-0">
      <div className="flex gap-x-3">
        <div className="min-w-0 flex-1">
          <Choice
            label={label}
            value={held.every}
            set={(every) => change({ every })}
            options={none === undefined ? EVERY : [["", none], ...EVERY]}
            wrong={held.every === "rule" ? undefined : wrong}
            hint={hint}
          />
        </div>
        {(held.every === "hours" || held.every === "month") && (
          <div className="w-[72px] flex-none">
            <TextField
              label={held.every === "hours" ? t("Hours") : t("On the")}
              type="number"
              value={String(held.number)}
              set={(text) => change({ number: Number(text) || 1 })}
            />
          </div>
        )}
        {timed && (
          <div className="w-[132px] flex-none">
            <TextField
              label={t("At")}
              type="time"
              value={held.time}
              set={(time) => time && change({ time })}
            />
          </div>
        )}
      </div>
      {held.every === "days" && (
        <div className="mb-3 flex flex-wrap gap-x-3 gap-y-1" role="group" aria-label={t("Days of the week")}>
          {DAYS.map((day) => (
            <label key={day} className="flex items-center gap-1.5 text-[13px]">
              <input
                type="checkbox"
                className="checkbox checkbox-xs"
                checked={held.days.includes(day)}
                disabled={held.days.length === 1 && held.days.includes(day)}
                onChange={(e) =>
                  change({
                    days: e.target.checked ? [...held.days, day] : held.days.filter((d) => d !== day),
                  })
                }
              />
              {DAY_WORDS[day]}
            </label>
          ))}
        </div>
      )}
      {held.every === "rule" && (
        <TextField
          label={t("Recurrence rule")}
          mono
          value={rule}
          set={set}
          wrong={wrong}
          hint={t("As in calendars (RFC 5545), in the company's time.")}
        />
      )}
    </fieldset>
  );
}
