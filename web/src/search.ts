/** Everything a link can carry: the dial, and on the estate the filter, order and what is peeked at. */
export interface Search {
  at?: string;
  q?: string;
  sort?: string;
  bands?: string;
  peek?: number;
  to?: string;
  tab?: string;
  from?: string;
}
