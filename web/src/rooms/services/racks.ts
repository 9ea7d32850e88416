import type { Schemas } from "../../api/client";

export const [RACK, UNIT] = [230, 15];

export interface PlacedSlot {
  slot: Schemas["RackSlot"];
  y: number;
  height: number;
}

/** Where the devices of a rack stand in its picture: unit 1 at the bottom. Who has no place is in the list alone. */
export function placedSlots(rack: Schemas["RackOut"], top: number): PlacedSlot[] {
  return rack.slots.flatMap((slot) =>
    slot.unit === null
      ? []
      : [
          {
            slot,
            y: top + (rack.units - (slot.unit + slot.height - 1)) * UNIT + 1,
            height: slot.height * UNIT - 2,
          },
        ],
  );
}

/** The letter a source of power goes by in its rack. */
export function letterOf(n: number): string {
  return n < 26 ? String.fromCharCode(65 + n) : String(n + 1);
}
