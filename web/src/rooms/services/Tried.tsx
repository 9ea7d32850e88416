import type { Schemas } from "../../api/client";
import { plural } from "../../parts/format";

/** What a rule recognises of all that was ever read. */
export function Tried({ told }: { told: Schemas["TriedOut"] | null }) {
  if (!told) return <p className="dim py-1 text-[13px]">The rule was changed: try it.</p>;
  const versions = Object.entries(told.versions).filter(([v]) => v !== "none read");
  return (
    <div className="py-1 text-[13px]" aria-live="polite">
      <p className="font-semibold">Tried on all that was ever read</p>
      {told.of > 0 && (
        <p>
          It fits <b>{told.samples}</b> of {plural(told.of, "look")} of the samples.
        </p>
      )}
      <p>
        It runs on <b>{plural(told.devices, "device")}</b> now
        {told.before > 0 && `, and ran on ${plural(told.before, "device")} before as it does no more`}.
      </p>
      {told.wide ? (
        <p className="text-error">{told.wide}</p>
      ) : told.others.length > 0 ? (
        <p className="text-error">
          It fits others as well: <span className="mono">{told.others.map((o) => o.stem).join(", ")}</span>
        </p>
      ) : (
        <p>
          <span className="tag good">nothing else fits it</span>
        </p>
      )}
      {versions.length > 0 && (
        <p className="dim">Versions: {versions.map(([v, n]) => `${v} (${n})`).join(", ")}</p>
      )}
      {told.talks_to.length > 0 && <p className="dim">It calls {told.talks_to.join(", ")}.</p>}
      {told.called_by > 0 && <p className="dim">{plural(told.called_by, "device")} call it.</p>}
    </div>
  );
}
