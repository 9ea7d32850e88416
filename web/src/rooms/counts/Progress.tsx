import type { Schemas } from "../../api/client";
import { count } from "../../parts/format";

type Figures = Schemas["TakingOut"]["figures"];

/** How far a count has come: a bar of what is found, elsewhere, and still to find. */
export function Progress({ figures, expected }: { figures: Figures; expected: number }) {
  const share = (n: number) => `${expected ? (100 * n) / expected : 0}%`;
  const words = `${count(figures.found)} of ${count(expected)} found, ${count(figures.elsewhere)} elsewhere`;
  return (
    <div
      className="flex h-2.5 w-full overflow-hidden rounded-[3px] bg-base-300"
      role="img"
      aria-label={words}
      title={words}
    >
      <span className="bg-primary" style={{ width: share(figures.found) }} />
      <span className="bg-accent" style={{ width: share(figures.elsewhere) }} />
    </div>
  );
}
