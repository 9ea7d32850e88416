import { createContext, useContext } from "react";
import type { Schemas } from "../../api/client";

type Handbook = Schemas["HandbookOut"];

/** What blocks need to know of the handbook they stand in. */
export interface About {
  id: number;
  place: string;
  kinds: Handbook["kinds"];
}

export const Writing = createContext<About>({ id: 0, place: "", kinds: [] });
export const useWriting = () => useContext(Writing);
export type Filled = Schemas["Filled"];
