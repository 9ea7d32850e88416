import type { Schemas } from "../../api/client";

export type Strip = Schemas["SwitchStrip"];
export type Port = Schemas["SwitchPort"];

export interface PlacedStrip {
  strip: Strip;
  x: number;
  y: number;
  columns: number;
}

export interface Cable {
  from: [number, number];
  to: [number, number];
  key: string;
  /** The spanning tree lets nothing over it. */
  held: boolean;
}

export const [CELL, HEAD, ACROSS] = [17, 22, 880];
const [BETWEEN, DOWN] = [36, 78];

/** Where strips stand: those as far from the way out as each other in one row, broken where it is too long. */
export function placedStrips(strips: Strip[]): { placed: PlacedStrip[]; height: number } {
  const placed: PlacedStrip[] = [];
  let [x, y, last] = [0, 0, strips[0]?.steps ?? null];
  for (const strip of strips) {
    const columns = Math.max(6, Math.ceil(strip.ports.length / 2));
    const width = columns * CELL;
    if (x > 0 && (strip.steps !== last || x + width > ACROSS))
      [x, y] = [0, y + HEAD + 2 * CELL + (strip.steps !== last ? DOWN : 30)];
    last = strip.steps;
    placed.push({ strip, x, y, columns });
    x += width + BETWEEN;
  }
  return { placed, height: placed.length ? y + HEAD + 2 * CELL + 12 : 0 };
}

/** Where a port stands in its strip: odd ones above, even ones below, as on the front of a switch. */
export function cellOf({ x, y }: PlacedStrip, n: number): [number, number] {
  return [x + Math.floor(n / 2) * CELL, y + HEAD + (n % 2) * CELL];
}

/** The cables between strips: from the port of one to the port the other end tells of, each once. */
export function cables(placed: PlacedStrip[]): Cable[] {
  const at = new Map(placed.map((p) => [p.strip.asset, p]));
  const done = new Set<string>();
  const out: Cable[] = [];
  for (const one of placed)
    one.strip.ports.forEach((port, n) => {
      const other = port.state === "switch" ? at.get(port.behind[0]?.asset ?? -1) : undefined;
      if (!other) return;
      const m = other.strip.ports.findIndex((p) => p.name === port.to_port);
      if (m < 0) return;
      const key = [`${one.strip.asset} ${port.name}`, `${other.strip.asset} ${port.to_port}`]
        .sort()
        .join(" – ");
      if (done.has(key)) return;
      done.add(key);
      const [ends, far] = [cellOf(one, n), cellOf(other, m)];
      const held = [port, other.strip.ports[m]].some((p) => p?.spanning === "blocking");
      out.push({ from: middle(ends), to: middle(far), key, held });
    });
  return out;
}

function middle([x, y]: [number, number]): [number, number] {
  return [x + CELL / 2 - 1, y + CELL / 2 - 1];
}
