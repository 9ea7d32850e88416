import type { FieldInfo, Registry } from "../../../api/types";
import { t } from "../../../words";
import { type Bracket, emptyGroup, type Group, type Item, newBracket, newRule, newSet } from "./model";
import { RuleEditor } from "./RuleEditor";

type Change = (id: number, made: Item | null) => void;

interface Props {
  group: Group;
  fields: FieldInfo[];
  registry: Registry;
  sets: string[];
  wrong: Map<number, string>;
  change: Change;
  /** The whole question: it cannot be taken out, and brackets and sets may stand in it. */
  top?: boolean;
  /** Within a bracket only conditions and groups of them stand. */
  within?: boolean;
}

const MODES = [
  ["all", t("all of these hold")],
  ["any", t("any of these holds")],
  ["none", t("none of these holds")],
] as const;

/** A group of conditions, and how they are joined. */
export function GroupEditor(props: Props) {
  const { group, fields, registry, sets, wrong, change, top, within } = props;
  const put = (made: Item) => change(group.id, { ...group, items: [...group.items, made] });
  return (
    <fieldset className={top ? "" : "rounded-[8px] border border-base-300 px-2 py-1.5"}>
      <legend className="sr-only">{t("A group of conditions")}</legend>
      <div className="flex items-center gap-2">
        <select
          className="select select-xs w-48"
          aria-label={t("How these are joined")}
          value={group.mode}
          onChange={(e) => change(group.id, { ...group, mode: e.target.value as Group["mode"] })}
        >
          {MODES.map(([mode, words]) => (
            <option key={mode} value={mode}>
              {words}
            </option>
          ))}
        </select>
        {!top && !within && (
          <button
            type="button"
            className="btn btn-ghost btn-xs"
            aria-label={t("Take this group out")}
            onClick={() => change(group.id, null)}
          >
            ✕
          </button>
        )}
      </div>
      <ul className="mt-1 grid gap-1 border-l-2 border-base-300 pl-3">
        {group.items.map((one) => (
          <li key={one.id}>
            <One {...props} one={one} />
            {wrong.get(one.id) && (
              <p role="alert" className="text-[12.5px] font-semibold text-error">
                {wrong.get(one.id)}
              </p>
            )}
          </li>
        ))}
        <li className="flex flex-wrap items-center gap-1.5">
          <button
            type="button"
            className="btn btn-xs"
            onClick={() => put(newRule(fields[0]?.name ?? "name"))}
          >
            {t("+ condition")}
          </button>
          <button type="button" className="btn btn-xs" onClick={() => put(emptyGroup("any"))}>
            {t("+ group")}
          </button>
          {!within && (
            <>
              <select
                className="select select-xs w-52"
                aria-label={t("Add a list")}
                value=""
                onChange={(e) => put(newBracket(e.target.value))}
              >
                <option value="">{t("+ something it has …")}</option>
                {Object.keys(registry.groups).map((g) => (
                  <option key={g} value={g}>
                    {g.replaceAll("_", " ")}
                  </option>
                ))}
              </select>
              {sets.length > 0 && (
                <select
                  className="select select-xs w-36"
                  aria-label={t("Add a set")}
                  value=""
                  onChange={(e) => put(newSet(e.target.value))}
                >
                  <option value="">{t("+ in a set …")}</option>
                  {sets.map((s) => (
                    <option key={s}>{s}</option>
                  ))}
                </select>
              )}
            </>
          )}
        </li>
      </ul>
    </fieldset>
  );
}

function One(props: Props & { one: Item }) {
  const { one, fields, registry, change } = props;
  const remove = (
    <button
      type="button"
      className="btn btn-ghost btn-xs"
      aria-label={t("Take it out")}
      onClick={() => change(one.id, null)}
    >
      ✕
    </button>
  );
  switch (one.type) {
    case "rule":
      return (
        <RuleEditor rule={one} fields={fields} change={(made) => change(one.id, made)} remove={remove} />
      );
    case "group":
      return <GroupEditor {...props} group={one} top={false} />;
    case "bracket":
      return (
        <div className="rounded-[8px] bg-base-200 px-2 py-1.5">
          <div className="flex flex-wrap items-center gap-2 text-[13px]">
            <Quantity one={one} change={change} />
            <b>{one.list.replaceAll("_", " ")}</b>
            <span className="dim">{t("of which, one and the same:")}</span>
            {remove}
          </div>
          <GroupEditor
            {...props}
            group={one.inner}
            fields={registry.groups[one.list] ?? []}
            top={false}
            within
          />
        </div>
      );
    case "set":
      return (
        <p className="flex items-center gap-2 text-[13px]">
          {t("in the set")} <b>{one.name}</b> {remove}
        </p>
      );
    case "written":
      return (
        <p className="flex items-center gap-2 text-[13px]">
          <code className="mono">{one.text}</code> <span className="faint">{t("as written")}</span> {remove}
        </p>
      );
  }
}

function Quantity({ one, change }: { one: Bracket; change: Change }) {
  return (
    <>
      <select
        className="select select-xs w-28"
        aria-label={t("How many of them")}
        value={one.quantity}
        onChange={(e) => change(one.id, { ...one, quantity: e.target.value as Bracket["quantity"] })}
      >
        <option value="some">{t("has some")}</option>
        <option value="no">{t("has no")}</option>
        <option value="count">{t("how many")}</option>
      </select>
      {one.quantity === "count" && (
        <>
          <select
            className="select select-xs w-16"
            aria-label={t("Compared")}
            value={one.op}
            onChange={(e) => change(one.id, { ...one, op: e.target.value as Bracket["op"] })}
          >
            {["=", ">", ">=", "<", "<="].map((op) => (
              <option key={op}>{op}</option>
            ))}
          </select>
          <input
            className="input input-xs w-16"
            aria-label={t("Number")}
            inputMode="numeric"
            value={one.number}
            onChange={(e) => change(one.id, { ...one, number: e.target.value })}
          />
        </>
      )}
    </>
  );
}
