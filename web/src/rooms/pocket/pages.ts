/** All pages of the pocket: one file, so that once it has come all of them open without signal. */
export { Card } from "./Card";
export { CountAlong } from "./CountAlong";
export { CountList } from "./CountList";
export { Find } from "./Find";
export { Mine } from "./Mine";
export { People } from "./People";
