import { count } from "./format";

/** One way to sift rows: its key, what it is called, and which rows it keeps. */
export type Sift<Row> = readonly [string, string, (row: Row) => boolean];

/** A row of buttons that sift a list, each with how many rows it keeps. */
export function Sifts<Row>(props: {
  label: string;
  sifts: readonly Sift<Row>[];
  rows: readonly Row[];
  chosen: string | undefined;
  set: (key: string) => void;
  children?: React.ReactNode;
}) {
  return (
    <fieldset className="flex flex-wrap items-center gap-2 pb-2.5" aria-label={props.label}>
      {props.children}
      {props.sifts.map(([key, label, fits]) => (
        <button
          key={key}
          type="button"
          aria-pressed={key === props.chosen}
          className={`btn btn-sm ${key === props.chosen ? "btn-primary" : ""}`}
          onClick={() => props.set(key)}
        >
          {label} <span className="font-normal opacity-80">{count(props.rows.filter(fits).length)}</span>
        </button>
      ))}
    </fieldset>
  );
}
