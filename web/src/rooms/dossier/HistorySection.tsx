import { useState } from "react";
import type { Schemas } from "../../api/client";
import { ChangeGlyph } from "../../parts/ChangeGlyph";
import { day, shortDay } from "../../parts/format";
import { Problem } from "../../parts/Problem";
import { useRegistry } from "../../parts/registry";
import { Section } from "../../parts/Section";
import { t, word } from "../../words";

type Change = Schemas["ChangeOut"];

interface Props {
  changes: Change[] | undefined;
  error: unknown;
  firstSeen: string;
}

const FIRST = 14;

export function HistorySection({ changes, error, firstSeen }: Props) {
  const [all, setAll] = useState(false);
  const [signins, setSignins] = useState(false);
  const lists = useRegistry().data?.lists ?? [];
  const called = (section: string) => lists.find((l) => l.name === section)?.one;
  const kept = (changes ?? []).filter(
    (c) => signins || (c.section !== "signins" && c.thing !== "Last signed in"),
  );
  const hidden = (changes?.length ?? 0) - kept.length;
  const shown = all ? kept : kept.slice(0, FIRST);
  return (
    <Section id="history" title={t("History")} flush>
      {error ? (
        <div className="px-3.5 pb-3">
          <Problem error={error} />
        </div>
      ) : kept.length === 0 ? (
        <p className="dim px-3.5 pb-3 text-[13px]">
          {changes
            ? t("Nothing has changed since it was first seen, {{firstSeen}}.", { firstSeen: day(firstSeen) })
            : t("Reading …")}
        </p>
      ) : (
        <table className="grid-table">
          <tbody>
            {shown.map((c, i) => {
              const before = shown[i - 1];
              const date = shortDay(c.at);
              return (
                <tr key={c.at + c.section + c.thing + c.verb}>
                  <td className="dim w-[74px] whitespace-nowrap">
                    {before && shortDay(before.at) === date ? "" : date}
                  </td>
                  <td className="w-[118px] whitespace-nowrap">
                    <ChangeGlyph verb={c.verb} /> <span className="dim">{word(c.verb)}</span>
                  </td>
                  <td>
                    {called(c.section) && <span className="faint">{called(c.section)} </span>}
                    <b className="font-semibold">{c.thing}</b>
                  </td>
                  <td className="mono break-words">
                    {[c.before, c.after].filter((v) => v !== null && v !== undefined).join(" → ")}
                  </td>
                </tr>
              );
            })}
          </tbody>
        </table>
      )}
      <div className="flex gap-4 px-3.5 py-2 text-[13px]">
        {!all && kept.length > FIRST && (
          <button type="button" className="link-quiet font-semibold" onClick={() => setAll(true)}>
            {t("Show all {{kept}}", { kept: kept.length })}
          </button>
        )}
        {(hidden > 0 || signins) && (
          <button type="button" className="link-quiet" onClick={() => setSignins(!signins)}>
            {signins ? t("Hide sign-ins") : t("Show {{hidden}} sign-ins too", { hidden })}
          </button>
        )}
      </div>
    </Section>
  );
}
