import { Link } from "@tanstack/react-router";
import type { FieldInfo, Row } from "../../api/types";
import { useNarrow } from "../../parts/ask/narrow";
import { fieldText, quoted } from "../../parts/ask/written";
import { EvidenceMarks } from "../../parts/Evidence";
import { ago, moment, shown } from "../../parts/format";
import { t } from "../../words";
import { type Editable, EditCell, isEditable } from "./EditCell";

const MONO = new Set(["name", "number", "serial", "address", "mac", "uuid", "os.version", "os.kernel"]);
export const NUMBERS = new Set(["number", "memory", "bytes", "percent", "bits"]);

interface CellsProps {
  row: Row;
  picked: boolean;
  pick: (range: boolean) => void;
  editing: Editable | null;
  edit: ((field: Editable) => void) | undefined;
  leave: (field: Editable, next: 1 | -1 | 0) => void;
  columns: string[];
  fields: Map<string, FieldInfo>;
  template: string;
  at: string | undefined;
  filter: string;
  setFilter: (filter: string) => void;
}

/** One device in the register. */
export function Cells(props: CellsProps) {
  const { row, picked, pick, editing, edit, leave, columns, fields, template, at, filter, setFilter } = props;
  const narrow = useNarrow(filter, setFilter);
  return (
    <div className="hidden h-full items-center bg-inherit md:grid" style={{ gridTemplateColumns: template }}>
      <div role="gridcell" className="frozen pl-1">
        <input
          type="checkbox"
          className="checkbox checkbox-xs align-middle"
          aria-label={t("Pick {{name}}", { name: row.name ?? row.number })}
          tabIndex={-1}
          checked={picked}
          onClick={(e) => {
            e.stopPropagation();
            pick(e.shiftKey);
          }}
          readOnly
        />
      </div>
      {columns.map((c, place) => {
        const field = fields.get(c);
        const frozen = place === 0 ? "frozen frozen-first" : "";
        if (isEditable(c) && editing === c) {
          return (
            <div key={c} role="gridcell" className={`px-1 ${frozen}`}>
              <EditCell row={row} field={c} label={field?.label ?? c} leave={(next) => leave(c, next)} />
            </div>
          );
        }
        const type = field?.type ?? "text";
        const value = row[c];
        const text = shown(type, c, value as string | number | null);
        const right = NUMBERS.has(type) || c === "last_seen";
        if (c === "evidence") {
          return (
            <div key={c} role="gridcell" className={`px-2 ${frozen}`}>
              <EvidenceMarks kinds={row.marks ?? []} />
            </div>
          );
        }
        if (c === "name" || c === "number") {
          return (
            <div key={c} role="gridcell" className={`mono truncate px-2 ${frozen}`}>
              <Link
                to="/assets/$asset"
                params={{ asset: String(row.id) }}
                search={{ at } as never}
                onClick={(e) => e.stopPropagation()}
                className="hover:underline"
              >
                {text || t("no name")}
              </Link>
            </div>
          );
        }
        const narrows = (type === "choice" || type === "text") && typeof value === "string" && value !== "";
        return (
          <div
            key={c}
            role="gridcell"
            title={type === "moment" && value ? moment(String(value)) : undefined}
            className={`group/cell relative truncate px-2 ${frozen} ${MONO.has(c) ? "mono" : ""} ${right ? "num" : ""}`}
          >
            {narrows ? (
              <button
                type="button"
                tabIndex={-1}
                title={t("Narrow to {{value}}", { value })}
                className="max-w-full truncate hover:underline"
                onClick={(e) => {
                  e.stopPropagation();
                  void narrow(`${fieldText(c)} = ${quoted(String(value))}`);
                }}
              >
                {text}
              </button>
            ) : (
              text || <span className="faint">–</span>
            )}
            {edit && isEditable(c) && (
              <button
                type="button"
                tabIndex={-1}
                aria-label={t("Change {{label}} of {{name}}", {
                  label: field?.label ?? c,
                  name: row.name ?? row.number,
                })}
                title={t("Change it here")}
                className="absolute inset-y-0 right-0 hidden bg-[var(--head)] px-1.5 text-[11px] text-primary group-hover/cell:block"
                onClick={(e) => {
                  e.stopPropagation();
                  edit(c);
                }}
              >
                {t("change")}
              </button>
            )}
          </div>
        );
      })}
    </div>
  );
}

/** The same where there is room for one line alone. */
export function PhoneRow({ row, at }: { row: Row; at: string | undefined }) {
  return (
    <Link
      to="/assets/$asset"
      params={{ asset: String(row.id) }}
      search={{ at } as never}
      className="flex h-full items-center gap-2 md:hidden"
    >
      <span className="mono truncate font-semibold">{row.name ?? t("no name")}</span>
      <span className="dim truncate">{[row.kind, row.place].filter(Boolean).join(" · ")}</span>
      <span className="faint ml-auto whitespace-nowrap">
        {row.last_seen ? ago(String(row.last_seen)) : ""}
      </span>
    </Link>
  );
}
