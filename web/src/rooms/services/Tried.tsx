import type { Schemas } from "../../api/client";
import { plural } from "../../parts/format";
import { t } from "../../words";

/** What a rule recognises of all that was ever read. */
export function Tried({ told }: { told: Schemas["TriedOut"] | null }) {
  if (!told) return <p className="dim py-1 text-[13px]">{t("The rule was changed: try it.")}</p>;
  const versions = Object.entries(told.versions).filter(([v]) => v !== "none read");
  return (
    <div className="py-1 text-[13px]" aria-live="polite">
      <p className="font-semibold">{t("Tried on all that was ever read")}</p>
      {told.of > 0 && (
        <p>
          {t("It fits")} <b>{told.samples}</b>{" "}
          {t("of {{looks}} of the samples.", { looks: plural(told.of, "look") })}
        </p>
      )}
      <p>
        {t("It runs on")} <b>{plural(told.devices, "device")}</b> {t("now")}
        {told.before > 0 &&
          t(", and ran on {{devices}} before as it does no more", { devices: plural(told.before, "device") })}
        .
      </p>
      {told.wide ? (
        <p className="text-error">{told.wide}</p>
      ) : told.others.length > 0 ? (
        <p className="text-error">
          {t("It fits others as well:")}{" "}
          <span className="mono">{told.others.map((o) => o.stem).join(", ")}</span>
        </p>
      ) : (
        <p>
          <span className="tag good">{t("nothing else fits it")}</span>
        </p>
      )}
      {versions.length > 0 && (
        <p className="dim">
          {t("Versions: {{versions}}", { versions: versions.map(([v, n]) => `${v} (${n})`).join(", ") })}
        </p>
      )}
      {told.talks_to.length > 0 && (
        <p className="dim">{t("It calls {{talks_to}}.", { talks_to: told.talks_to.join(", ") })}</p>
      )}
      {told.called_by > 0 && (
        <p className="dim">{t("{{devices}} call it.", { devices: plural(told.called_by, "device") })}</p>
      )}
    </div>
  );
}
