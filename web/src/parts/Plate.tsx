import type { Row } from "../api/types";
import { t } from "../words";
import { capital } from "./format";

const TONES: Record<string, string> = {
  retired: "bad",
  disposed: "bad",
  "lost or stolen": "bad",
  missing: "warn",
  "in repair": "warn",
  "on loan": "note",
};

/** The small identity block of an asset. */
export function Plate({ row, aside }: { row: Row; aside?: boolean }) {
  const Heading = aside ? "h2" : "h1";
  const made = [row.manufacturer, row.model].filter(Boolean).join(" ");
  const standing = row.standing === "register" ? (row.state ?? t("in the register")) : row.standing;
  return (
    <div className="plate grid grid-cols-[1fr_auto] gap-x-3 gap-y-0.5">
      <Heading className="mono truncate !text-[18px] font-semibold">{row.name ?? t("no name")}</Heading>
      <span className={`tag ${TONES[String(row.state)] ?? ""} self-center`}>
        {capital(String(standing ?? ""))}
      </span>
      <div className="dim truncate">
        {[capital(String(row.kind ?? "device")), made].filter(Boolean).join(" · ")}
        {row.serial ? <span className="mono"> · {row.serial}</span> : null}
      </div>
      <div className="mono dim text-right">{row.number}</div>
    </div>
  );
}
