import { useQuery } from "@tanstack/react-query";
import { useNavigate, useSearch } from "@tanstack/react-router";
import { useEffect, useState } from "react";
import { asks } from "../../api/asking";
import { quoted } from "../../parts/ask/written";
import { Problem } from "../../parts/Problem";
import { t } from "../../words";
import { Devices } from "./Devices";
import { Frame } from "./Frame";
import { Panes } from "./Panes";
import { bare } from "./resolve";
import { Scanner } from "./Scanner";

const PAUSE = 120;
const FIELDS = "name,number,kind,model,person,place";

/** Finding a device by typing or scanning; where there is room it opens beside. */
export function Find() {
  return (
    <Frame wide>
      {({ away }) => (
        <Panes
          phone="left"
          left={<Finding away={away} />}
          right={<p className="dim p-8 text-center">{t("What is chosen at the left opens here.")}</p>}
        />
      )}
    </Frame>
  );
}

/** A text as it is once typing pauses. */
function usePaused(text: string): string {
  const [paused, setPaused] = useState(text);
  useEffect(() => {
    const timer = setTimeout(() => setPaused(text), PAUSE);
    return () => clearTimeout(timer);
  }, [text]);
  return paused;
}

/** What is sought stays in the address, so that a device that opens beside does not end the search. */
export function Finding({ away }: { away: boolean }) {
  const navigate = useNavigate();
  const { q } = useSearch({ strict: false }) as { q?: string };
  const [text, setText] = useState(q ?? "");
  const [camera, setCamera] = useState(false);
  const [label, setLabel] = useState("");
  const sought = usePaused(text.trim());
  const asked = useQuery({
    ...asks("/api/assets", { params: { query: { filter: quoted(sought), fields: FIELDS, limit: 12 } } }),
    enabled: sought.length > 1 && !away,
    placeholderData: (before) => before,
    retry: false,
  });
  const labelled = useQuery({
    ...asks("/api/labels/{code}", { params: { path: { code: label } } }),
    enabled: label !== "",
    retry: false,
  });
  useEffect(() => {
    void navigate({ to: ".", search: { q: sought || undefined } as never, replace: true });
  }, [sought, navigate]);
  const there = labelled.data?.asset;
  useEffect(() => {
    if (there === undefined) return;
    setLabel("");
    void navigate({ to: "/pocket/assets/$asset", params: { asset: String(there) }, search: {} });
  }, [there, navigate]);
  const scanned = (code: string) => {
    setCamera(false);
    const said = bare(code);
    if (said !== code.trim() || /^[0-9A-Z]{9}$/.test(said)) setLabel(said);
    else setText(said);
  };
  return (
    <div className="pb-6">
      {camera && <Scanner found={scanned} />}
      <div className="grid gap-3 px-4 pt-4">
        <div className="flex items-center gap-2">
          <input
            type="search"
            className="input h-11 min-w-0 flex-1"
            aria-label={t("Find a device")}
            placeholder={t("name, serial, address, person")}
            autoCapitalize="off"
            autoCorrect="off"
            value={text}
            onChange={(e) => setText(e.target.value)}
          />
          <button type="button" className="btn h-11" aria-pressed={camera} onClick={() => setCamera(!camera)}>
            {camera ? t("Off") : t("Scan")}
          </button>
        </div>
        {labelled.error && <Problem error={labelled.error} />}
        {asked.error && <Problem error={asked.error} />}
        {away && (
          <p className="dim text-[13.5px]">
            {t("Without signal only counts that were taken along are here.")}
          </p>
        )}
        {sought.length > 1 && asked.data && (
          <Devices label={t("Found")} rows={asked.data.rows}>
            {asked.data.rows.length === 0 && (
              <li className="dim px-3.5 py-3 text-[13.5px]">{t("Nothing is called that.")}</li>
            )}
            {asked.data.total > asked.data.rows.length && (
              <li className="dim px-3.5 py-2 text-[13px]">
                {t("{{more}} more: type on", { more: asked.data.total - asked.data.rows.length })}
              </li>
            )}
          </Devices>
        )}
      </div>
    </div>
  );
}
