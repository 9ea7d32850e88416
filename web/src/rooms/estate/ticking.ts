import { useEffect, useRef, useState } from "react";
import { toast } from "sonner";
import { client, ok } from "../../api/client";
import type { FieldInfo, Row } from "../../api/types";
import { moment, plural, shown } from "../../parts/format";
import { sayRefused } from "../../parts/refusal";
import { copyTable } from "../../parts/table/copy";
import { t } from "../../words";

const AT_ONCE = 500;

interface Asked {
  filter: string;
  at: string | undefined;
  sort: string;
}

function told(error: unknown): void {
  sayRefused(error, t("It could not be read."));
}

/** Read rows of a selection by their places, however many pages they lie on. */
async function rowsBetween(asked: Asked, fields: string, from: number, to: number): Promise<Row[]> {
  const out: Row[] = [];
  for (let offset = from; offset <= to; offset += AT_ONCE) {
    const limit = Math.min(AT_ONCE, to - offset + 1);
    const query = { filter: asked.filter, as_of: asked.at, sort: asked.sort, fields, offset, limit };
    const page = await ok(client.GET("/api/assets", { params: { query } }));
    out.push(...(page.rows as Row[]));
  }
  return out;
}

/** What is ticked in the register, by asset with its number: one by one, a range, or all over all pages. */
export function useTicks(asked: Asked) {
  const [ticked, setTicked] = useState<Map<number, string>>(new Map());
  const anchor = useRef<number | null>(null);
  // Ticks are of a question: of another one they are gone.
  useEffect(() => {
    if (asked.filter !== undefined) {
      setTicked(new Map());
      anchor.current = null;
    }
  }, [asked.filter]);
  const toggle = (row: Row, index: number) => {
    const next = new Map(ticked);
    if (!next.delete(row.id)) next.set(row.id, String(row.number));
    anchor.current = index;
    setTicked(next);
  };
  const upTo = async (index: number) => {
    const from = anchor.current ?? index;
    try {
      const rows = await rowsBetween(asked, "number", Math.min(from, index), Math.max(from, index));
      setTicked((before) => new Map([...before, ...rows.map((r) => [r.id, String(r.number)] as const)]));
    } catch (error) {
      told(error);
    }
  };
  const all = async () => {
    try {
      const query = { filter: asked.filter, as_of: asked.at, sort: asked.sort };
      const rows = await ok(client.GET("/api/register/numbers", { params: { query } }));
      setTicked(new Map(rows.map((r) => [r.id, r.number])));
    } catch (error) {
      told(error);
    }
  };
  return { ticked, toggle, upTo, all, clear: () => setTicked(new Map()) };
}

/** Copy what is ticked with the columns shown, in the order of the register, its headings first. */
export async function copyTicked(
  asked: Asked,
  numbers: string[],
  columns: string[],
  fields: Map<string, FieldInfo>,
): Promise<void> {
  const wanted = columns.filter((c) => c !== "evidence");
  const these = { ...asked, filter: `number in (${numbers.join(", ")})` };
  try {
    const rows = await rowsBetween(these, wanted.join(","), 0, numbers.length - 1);
    const cells = rows.map((r) =>
      wanted.map((c) => {
        const [type, value] = [fields.get(c)?.type ?? "text", r[c] as string | number | null];
        // Elsewhere “2 d” is of no day: a moment is copied as one.
        return type === "moment" && value ? moment(String(value)) : shown(type, c, value);
      }),
    );
    await copyTable([wanted.map((c) => fields.get(c)?.label ?? c), ...cells]);
    toast.success(t("{{rows}} copied.", { rows: plural(rows.length, "row") }));
  } catch (error) {
    told(error);
  }
}
