import { useQuery } from "@tanstack/react-query";
import { useDeferredValue } from "react";
import { asks } from "../../api/asking";
import { TextField } from "../Form";

interface Props {
  /** Whose values are offered, as the filter language calls it: `place`, `software.product`. */
  of: string;
  label: string;
  value: string;
  set: (value: string) => void;
  wrong?: string;
  hint?: string;
  required?: boolean;
}

const MOST = 12;

/** A text of which the estate knows the values: those that begin with what is typed are offered. */
export function OfferedField({ of, ...field }: Props) {
  const begun = useDeferredValue(field.value);
  const [list, name] = of.includes(".") ? of.split(".") : ["", of];
  // In quotes it is one value, however many words of it are there.
  const text = `${list ? `${list}[` : ""}${name} = ${begun && `"${begun.replaceAll('"', "")}`}`;
  const offers = useQuery({
    ...asks("/api/filter/complete", { params: { query: { text } } }),
    staleTime: 60_000,
    retry: false,
  });
  const known = (offers.data ?? [])
    .filter((o) => o.kind === "value" && o.text !== "none")
    .map((o) => o.text.replaceAll('"', ""));
  return <TextField {...field} list={known.slice(0, MOST)} />;
}
