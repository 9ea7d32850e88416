import { Empty, Unanswered } from "../../parts/Problem";
import { t } from "../../words";
import { Layers } from "./Layers";
import { useMap } from "./map";
import { TakeOut } from "./TakeOut";
import { useUnfolding } from "./unfolding";

/** A selection as a picture: the services it serves above, and what it stands on below. */
export function MapLens({ filter, at }: { filter: string; at: string | undefined }) {
  const unfolding = useUnfolding(filter, at);
  const asked = useMap(filter, at, unfolding.unfolded);
  if (asked.error || !asked.data)
    return <Unanswered asked={asked} what={t("Drawing what stands on what …")} />;
  if (asked.data.boxes.length === 0 && filter === "")
    return (
      <Empty title={t("The whole estate is too much to draw.")}>
        {t("Ask for part of it above: a place, a kind, a service.")}
      </Empty>
    );
  return (
    <div className="py-2.5" id="map-picture">
      <p className="pb-2 text-right">
        <TakeOut name="map" filter={filter} at={at} picture="map-picture" />
      </p>
      <Layers picture={asked.data} at={at} unfolding={unfolding} />
      <p className="dim text-[13px] sm:hidden">
        {t("There is no room for a picture here; the register lists the same devices.")}
      </p>
    </div>
  );
}
