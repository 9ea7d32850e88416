import { type ComponentType, createContext } from "react";

/** What draws a map of a question: another room does. */
export type Drawn = ComponentType<{ filter: string; at: string | undefined }>;
export const Picture = createContext<Drawn | null>(null);
