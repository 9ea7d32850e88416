/** What the room is asked: of which devices, as of which day, and by what was known then or is now known. */
export interface Asked {
  filter: string;
  at: string | undefined;
  known?: "now" | undefined;
}

/** The filter for the devices with a finding for which a condition holds. */
export const finding = (inner: string, known?: "now" | undefined) =>
  `vulnerability[${inner}${known ? " and known = afterwards" : ""}]`;
