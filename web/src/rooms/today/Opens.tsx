import { Link } from "@tanstack/react-router";
import type { CSSProperties, ReactNode } from "react";

/** What is counted, the way to its rows: the question's devices, or the report. */
export function Opens(props: {
  filter: string | null;
  report?: string | null;
  at: string | undefined;
  children: ReactNode;
  className?: string;
  style?: CSSProperties;
  title?: string;
}) {
  const look = props.className ?? "link-quiet";
  if (props.filter !== null)
    return (
      <Link
        to="/estate"
        search={{ at: props.at, q: props.filter || undefined }}
        className={look}
        style={props.style}
        title={props.title}
      >
        {props.children}
      </Link>
    );
  if (props.report)
    return (
      <Link
        to="/reports/$report"
        params={{ report: props.report }}
        search={{ at: props.at }}
        className={look}
      >
        {props.children}
      </Link>
    );
  return <span className={look}>{props.children}</span>;
}

const INKS = ["var(--s1)", "var(--s2)", "var(--s3)", "var(--s4)", "#d8c48d", "#c4946f"];
/** The colour of the so manyeth part. */
export const inkOf = (n: number) => INKS[n % INKS.length] ?? "var(--s1)";
