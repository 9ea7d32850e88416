import { useState } from "react";

/** How a list is laid out on this computer: what is not named stands as it comes. */
export interface Layout {
  hidden: Record<string, boolean>;
  order: string[];
  sizes: Record<string, number>;
}

const PLAIN: Layout = { hidden: {}, order: [], sizes: {} };

function kept(key: string): Layout {
  try {
    return { ...PLAIN, ...(JSON.parse(localStorage.getItem(key) ?? "{}") as Partial<Layout>) };
  } catch {
    localStorage.removeItem(key); // written by something else
    return PLAIN;
  }
}

/** The layout of one list, and the ways to change it and to give it back. */
export function useLayout(list: string) {
  const key = `list.${list}`;
  const [layout, setLayout] = useState(() => kept(key));
  const change = (next: Partial<Layout>) => {
    const whole = { ...layout, ...next };
    localStorage.setItem(key, JSON.stringify(whole));
    setLayout(whole);
  };
  const reset = () => {
    localStorage.removeItem(key);
    setLayout(PLAIN);
  };
  return { layout, change, reset, plain: !localStorage.getItem(key) };
}
