import { Advisories } from "./Advisories";
import { Figures } from "./Exposure";

/** A selection by what is open on it. */
export function ExposureLens({ filter, at }: { filter: string; at: string | undefined }) {
  return (
    <>
      <Figures filter={filter} at={at} />
      <Advisories filter={filter} at={at} />
    </>
  );
}
