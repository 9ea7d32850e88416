import type { Schemas } from "../../api/client";

export type FillRule = Schemas["FillRuleOut"];

/** A field of the registry as people know it: one of the company's own without what tells it apart. */
export const words = (field: string) => field.replace(/^field:/, "");
