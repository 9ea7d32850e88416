/** Where a device may stand in its life. */
export const STATES = [
  "planned",
  "ordered",
  "in stock",
  "in use",
  "on loan",
  "in repair",
  "missing",
  "lost or stolen",
  "retired",
  "disposed",
];
