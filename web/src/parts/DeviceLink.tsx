import { Link } from "@tanstack/react-router";
import type { ReactNode } from "react";

interface Props {
  asset: number;
  /** The day the dial stands at, where the page follows it. */
  at?: string | undefined;
  className?: string;
  children: ReactNode;
}

/** Where a device is named: the way to its dossier. */
export function DeviceLink({ asset, at, className = "link-quiet mono", children }: Props) {
  return (
    <Link to="/assets/$asset" params={{ asset: String(asset) }} search={{ at }} className={className}>
      {children}
    </Link>
  );
}
