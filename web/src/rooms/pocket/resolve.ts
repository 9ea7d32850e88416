import type { Device } from "./store";

const LABEL = /^https?:\/\/[^/\s]+\/l\/([^/?#\s]+)\/?$/i;

/** What a code says beside the address it was printed in. */
export function bare(code: string): string {
  const text = code.trim().replace(/\s+/g, " ");
  return LABEL.exec(text)?.[1] ?? text;
}

/** The device of those taken along that a code leads to: by a label, number, serial number or name. */
export function resolve(devices: Device[], code: string): Device | undefined {
  const word = bare(code).toLowerCase();
  if (!word) return undefined;
  const label = word.replace(/[ -]/g, "");
  return (
    devices.find((d) => d.codes.some((c) => c.toLowerCase() === label)) ??
    devices.find((d) => d.number.toLowerCase() === word) ??
    only(devices.filter((d) => d.serial.toLowerCase() === word || d.name.toLowerCase() === word))
  );
}

function only(found: Device[]): Device | undefined {
  return found.length === 1 ? found[0] : undefined;
}

/** What this phone can say of a device met at a place, until Tarn has: a place within another is one it knows of. */
export function seemsElsewhere(device: Device, place: string): boolean {
  return Boolean(place && device.place && place.toLowerCase() !== device.place.toLowerCase());
}
