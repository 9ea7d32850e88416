import type { Schemas } from "../../api/client";
import { count, plural } from "../../parts/format";
import { t } from "../../words";

const TAG: Record<string, string> = { comes: "good", goes: "bad", stays: "" };

/** What rules would make of a service: who comes, who goes, who stays, and why. */
export function Rehearsal({ told }: { told: Schemas["ServiceRehearsal"] }) {
  return (
    <section className="sheet mb-2 max-h-64 overflow-y-auto p-2.5 text-[13px]" aria-live="polite">
      <p className="pb-1">
        {plural(told.devices, "device")}:{" "}
        {told.parts
          .map((p) => `${p.name || t("a part without a name")} ${count(p.devices)} (needs ${p.needed})`)
          .join(", ")}
      </p>
      {told.trouble.map((text) => (
        <p key={text} className="text-error">
          {text}
        </p>
      ))}
      <ul>
        {told.rows.slice(0, 60).map((r) => (
          <li key={`${r.part} ${r.asset}`} className="flex gap-2 py-0.5">
            <span className={`tag ${TAG[r.change] ?? ""}`}>{r.change}</span>
            <b className="mono">{r.name}</b>
            <span className="dim">
              {r.part}
              {r.because.length > 0 && `: ${r.because.join("; ")}`}
            </span>
          </li>
        ))}
      </ul>
      {told.rows.length > 60 && (
        <p className="dim">{t("and {{rows}} more", { rows: count(told.rows.length - 60) })}</p>
      )}
    </section>
  );
}
