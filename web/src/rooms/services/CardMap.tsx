import { Empty, Unanswered } from "../../parts/Problem";
import { t } from "../../words";
import { Layers } from "./Layers";
import { useMap } from "./map";

/** A map as there is room for it on a card. */
export function CardMap({ filter, at }: { filter: string; at: string | undefined }) {
  const asked = useMap(filter, at);
  if (asked.error || !asked.data) return <Unanswered asked={asked} what={t("Drawing …")} />;
  if (asked.data.boxes.length === 0)
    return <Empty title={t("There is nothing to draw, or too much.")}>{t("Narrow it.")}</Empty>;
  return (
    <div className="max-h-[420px] overflow-auto px-2 pb-2">
      <Layers picture={asked.data} at={at} />
    </div>
  );
}
