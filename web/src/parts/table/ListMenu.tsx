import { Ellipsis } from "lucide-react";
import { postFile, type Schemas } from "../../api/client";
import { t } from "../../words";
import { plural } from "../format";
import { closeMenu, Menu } from "../Menu";
import { sayRefused } from "../refusal";
import type { Column } from "./column";

type Data = Omit<Schemas["ListIn"], "name">;

const FILES = [
  ["xlsx", t("Workbook (XLSX)")],
  ["ods", t("OpenDocument (ODS)")],
  ["csv", "CSV"],
] as const;

interface Props<T> {
  /** Tells its menu from those of other lists on the page. */
  menu: string;
  label: string;
  columns: Column<T>[];
  shown: Set<string>;
  choose: (key: string, on: boolean) => void;
  /** Give back the layout it came with; left out where it has that. */
  reset?: () => void;
  copy: () => void;
  ticked: number;
  data: () => Data;
}

/** What can be done with a list as a whole: its columns, a copy, a file. */
export function ListMenu<T>({ menu, label, columns, shown, choose, reset, copy, ticked, data }: Props<T>) {
  const file = async (format: (typeof FILES)[number][0]) => {
    closeMenu(t("This list"), menu);
    try {
      await postFile(`/api/reports/listed/${format}`, { name: label, ...data() });
    } catch (error) {
      sayRefused(error, t("The file could not be written."));
    }
  };
  return (
    <Menu label={t("This list")} of={menu} icon={<Ellipsis size={14} aria-hidden />}>
      <div className="text-left font-normal">
        {columns.map(
          (c) =>
            c.of && (
              <label
                key={c.key}
                className="flex items-center gap-2 rounded px-1.5 py-1 text-[13px] hover:bg-[var(--head)]"
              >
                <input
                  type="checkbox"
                  className="checkbox checkbox-xs"
                  checked={shown.has(c.key)}
                  disabled={shown.size === 1 && shown.has(c.key)}
                  onChange={(e) => choose(c.key, e.target.checked)}
                />
                {c.label}
              </label>
            ),
        )}
        {reset && <Item act={reset} words={t("As it came")} />}
        <p className="faint mt-1 border-t border-base-300 px-1.5 pt-1.5 text-[12px]">
          {ticked ? t("The {{rows}} ticked", { rows: plural(ticked, "row") }) : t("The whole list")}
        </p>
        <Item
          act={() => {
            closeMenu(t("This list"), menu);
            copy();
          }}
          words={t("Copy as a table")}
        />
        {FILES.map(([format, words]) => (
          <Item key={format} act={() => void file(format)} words={words} />
        ))}
      </div>
    </Menu>
  );
}

function Item({ act, words }: { act: () => void; words: string }) {
  return (
    <button
      type="button"
      className="block w-full rounded px-1.5 py-1 text-left text-[13px] text-base-content hover:bg-[var(--head)]"
      onClick={act}
    >
      {words}
    </button>
  );
}
