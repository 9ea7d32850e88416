import { useQuery, useQueryClient } from "@tanstack/react-query";
import { useEffect, useRef, useState } from "react";
import { asks } from "../../api/asking";
import { client, ok } from "../../api/client";
import type { Row } from "../../api/types";
import { useOwn } from "../../parts/own/own";
import { sayRefused } from "../../parts/refusal";
import { undoToast } from "../../parts/undo";
import { t } from "../../words";

/** Fields that may be said of a device in its cell. */
export const EDITABLE = ["kind", "person", "department", "place", "note"] as const;
export type Editable = (typeof EDITABLE)[number];

export const isEditable = (field: string): field is Editable =>
  (EDITABLE as readonly string[]).includes(field);

interface Props {
  row: Row;
  field: Editable;
  label: string;
  /** Leave the cell: for another field by Tab, or for none. */
  leave: (next: 1 | -1 | 0) => void;
}

/** One cell being changed: Enter or Tab keeps, Esc leaves it. An empty cell takes back what anybody said of it. */
export function EditCell({ row, field, label, leave }: Props) {
  const queries = useQueryClient();
  const before = String(row[field] ?? "");
  const [text, setText] = useState(before);
  const box = useRef<HTMLInputElement>(null);
  const kinds = (useOwn().data?.kinds ?? []).map((k) => k.name);
  const offered = useQuery({
    ...asks("/api/holders", { params: { query: { begins: text, limit: 8 } } }),
    enabled: field === "person" && text.length > 1,
  });
  const done = useRef(false);
  useEffect(() => box.current?.select(), []);
  const keep = async (next: 1 | -1 | 0) => {
    if (done.current) return;
    done.current = true;
    const value = text.trim();
    if (value === before) return leave(next);
    try {
      const assets = [row.id];
      const said = await ok(
        value === ""
          ? client.POST("/api/empty", { body: { assets, fields: [field] } })
          : client.POST("/api/decide", { body: { assets, [field]: value } }),
      );
      const again = () => void queries.invalidateQueries();
      undoToast(
        t("{{label}} of {{name}}: {{value}}.", {
          label,
          name: row.name ?? row.number,
          value: value || t("taken back"),
        }),
        said.entry,
        again,
      );
      again();
      leave(next);
    } catch (error) {
      done.current = false;
      sayRefused(error, t("It was not changed."));
    }
  };
  const list = field === "kind" ? kinds : (offered.data ?? []).map((p) => p.name);
  return (
    <>
      <input
        ref={box}
        className="input input-xs w-full"
        aria-label={t("{{label}} of {{name}}", { label, name: row.name ?? row.number })}
        list={list.length ? "cell-offers" : undefined}
        value={text}
        onClick={(e) => e.stopPropagation()}
        onChange={(e) => setText(e.target.value)}
        onBlur={() => void keep(0)}
        onKeyDown={(e) => {
          e.stopPropagation();
          if (e.key === "Enter") void keep(0);
          if (e.key === "Tab") {
            e.preventDefault();
            void keep(e.shiftKey ? -1 : 1);
          }
          if (e.key === "Escape") {
            done.current = true;
            leave(0);
          }
        }}
      />
      <datalist id="cell-offers">
        {list.map((one) => (
          <option key={one} value={one} />
        ))}
      </datalist>
    </>
  );
}
