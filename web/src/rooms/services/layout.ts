import type { Schemas } from "../../api/client";

type Box = Schemas["LayerBox"];
export type Placed = Box & { x: number; y: number; width: number; height: number };

export const WIDTH = 1216;
/** As narrow as a box may be drawn, with the room beside it. */
const NARROWEST = 170;
const [HIGH, APART, BETWEEN, HEAD] = [28, 22, 34, 24];

export interface Band {
  layer: string;
  top: number;
  height: number;
}

/**
 * Where the boxes of a picture stand: rows from the top, those of a layer in one band. A row that is too long
 * is broken into lines of as many as each other, so that nothing is ever drawn narrower than it can be read.
 */
export function placed(given: Box[], across: number): { boxes: Placed[]; bands: Band[]; height: number } {
  const rows = new Map<number, Box[]>();
  for (const box of given) rows.set(box.row, [...(rows.get(box.row) ?? []), box]);
  const at = new Map<Box, Placed>();
  const bands: Band[] = [];
  let y = 0;
  for (const [, row] of [...rows].sort(([a], [b]) => a - b)) {
    const layer = row[0]?.layer ?? "";
    const last = bands.at(-1);
    if (last?.layer !== layer) {
      y += last ? APART : 8;
      bands.push({ layer, top: y, height: 0 });
      y += HEAD;
    } else y += BETWEEN;
    const lines = Math.ceil(row.length / Math.floor(across / NARROWEST));
    const beside = Math.ceil(row.length / lines);
    row.forEach((box, n) => {
      const line = Math.floor(n / beside);
      const here = Math.min(beside, row.length - line * beside);
      const slot = across / here;
      const width = Math.min(165, slot - 10);
      const x = slot * (n % beside) + (slot - width) / 2;
      at.set(box, { ...box, x, y: y + line * (HIGH + 10), width, height: HIGH });
    });
    y += lines * (HIGH + 10) - 10;
    const band = bands.at(-1);
    if (band) band.height = y + 12 - band.top;
  }
  const end = bands.at(-1);
  return {
    boxes: given.map((box) => at.get(box) as Placed),
    bands,
    height: end ? end.top + end.height + 8 : 0,
  };
}
