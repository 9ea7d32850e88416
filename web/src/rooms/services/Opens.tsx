import { Link } from "@tanstack/react-router";
import type { ReactNode } from "react";
import type { Schemas } from "../../api/client";
import { count } from "../../parts/format";

interface Props {
  of: Schemas["FallenCount"];
  at: string | undefined;
  /** What it says, where that is not the number alone. */
  children?: ReactNode;
}

/** A number of devices, the way to them where they can be named. */
export function Opens({ of, at, children }: Props) {
  const said = children ?? count(of.devices);
  if (!of.filter) return <>{said}</>;
  return (
    <Link to="/estate" search={{ at, q: of.filter }} className="link-quiet">
      {said}
    </Link>
  );
}
