/** Everything a link can carry: the dial, the branch stood in, and on the estate the filter, order and what is peeked at. */
export interface Search {
  at?: string;
  in?: string;
  q?: string;
  sort?: string;
  bands?: string;
  cols?: string;
  peek?: number;
  to?: string;
  tab?: string;
  /** A program, by its name: what is told is told of it. */
  program?: string;
  /** How many minutes what stops is meant to be down. */
  lasts?: number;
  /** Of a past day: what is now known of it, instead of what was known then. */
  known?: "now";
  from?: string;
  written?: string;
  reset?: string;
  error?: string;
}
