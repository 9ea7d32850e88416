import { Link } from "@tanstack/react-router";
import type { ReactNode } from "react";
import type { Schemas } from "../../api/client";
import { count } from "../../parts/format";

interface Props {
  of: Schemas["FallenCount"];
  at: string | undefined;
  /** What it says, where that is not the number alone. */
  children?: ReactNode;
  /** Whether it stands within a sentence, where its colour alone would not tell it from the words around it. */
  inText?: boolean;
}

/** A number of devices, the way to them where they can be named. */
export function Opens({ of, at, children, inText = false }: Props) {
  const said = children ?? count(of.devices);
  if (!of.filter) return <>{said}</>;
  return (
    <Link
      to="/estate"
      search={{ at, q: of.filter }}
      className={inText ? "link-quiet underline" : "link-quiet"}
    >
      {said}
    </Link>
  );
}
