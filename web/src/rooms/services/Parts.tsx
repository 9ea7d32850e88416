import { useQuery } from "@tanstack/react-query";
import { asks } from "../../api/asking";
import type { Schemas } from "../../api/client";
import { FilterField } from "../../parts/ask/FilterField";
import { TextField } from "../../parts/Form";
import { t } from "../../words";

type Part = { name: string; needs: number; rules: Schemas["MembershipRule"][] };

interface Props {
  parts: Part[];
  set: (parts: Part[]) => void;
  wrong?: string;
}

/** The parts of a service: a name, how many of its members it needs, and the rules that say which those are. */
export function Parts({ parts, set, wrong }: Props) {
  const change = (n: number, part: Partial<Part>) =>
    set(parts.map((p, i) => (i === n ? { ...p, ...part } : p)));
  const rule = (n: number, m: number, said: Partial<Part["rules"][number]>) =>
    change(n, { rules: parts[n]?.rules.map((r, i) => (i === m ? { ...r, ...said } : r)) ?? [] });
  return (
    <fieldset className="mb-2">
      <legend className="pb-1 text-[13px] font-semibold">{t("Parts, and the devices that do them")}</legend>
      {wrong && <p className="pb-1 text-[13px] text-error">{wrong}</p>}
      {parts.map((part, n) => (
        <div key={n} className="mb-2 rounded-[8px] border border-base-300 p-2.5">
          <div className="grid gap-x-4 sm:grid-cols-[1fr_150px_auto]">
            <TextField
              label={t("Part")}
              value={part.name}
              set={(name) => change(n, { name })}
              placeholder={t("Database")}
            />
            <TextField
              label={t("Needs")}
              type="number"
              least={0}
              value={String(part.needs)}
              set={(needs) => change(n, { needs: Number(needs) })}
              hint={t("of its devices; 0 for all")}
            />
            <button
              type="button"
              className="link-quiet mt-7 self-start text-[13px] font-semibold"
              onClick={() => set(parts.filter((_, i) => i !== n))}
            >
              {t("Drop the part")}
            </button>
          </div>
          {part.rules.map((said, m) => (
            <div key={m} className="grid gap-x-4 sm:grid-cols-[2fr_1fr]">
              <FilterField
                label={t("Devices for which")}
                value={said.filter}
                set={(filter) => rule(n, m, { filter })}
                placeholder="ports[port = 5432 and process = grebe]"
              />
              <TextField label={t("Because")} value={said.why} set={(why) => rule(n, m, { why })} />
            </div>
          ))}
          <span className="flex flex-wrap items-center gap-3">
            <button
              type="button"
              className="link-quiet text-[13px] font-semibold"
              onClick={() => change(n, { rules: [...part.rules, { filter: "", why: "" }] })}
            >
              {t("Another rule")}
            </button>
            <Shipped add={(asked) => change(n, { rules: [...part.rules.filter((r) => r.filter), asked] })} />
          </span>
        </div>
      ))}
      <button
        type="button"
        className="btn btn-sm"
        onClick={() => set([...parts, { name: "", needs: 1, rules: [{ filter: "", why: "" }] }])}
      >
        {t("Another part")}
      </button>
    </fieldset>
  );
}

/** A rule that begins with a question that ships; what is in quotes is to be made one's own. */
function Shipped({ add }: { add: (rule: Part["rules"][number]) => void }) {
  const asked = useQuery(asks("/api/services/questions"));
  const questions = asked.data ?? [];
  return (
    <select
      className="select select-sm w-auto"
      aria-label={t("A rule that begins with a question")}
      value=""
      onChange={(e) => {
        const chosen = questions.find((q) => q.name === e.target.value);
        if (chosen) add({ filter: chosen.filter, why: chosen.why });
      }}
    >
      <option value="">{t("begin with a question …")}</option>
      {questions.map((q) => (
        <option key={q.name} value={q.name}>
          {q.name}
        </option>
      ))}
    </select>
  );
}
