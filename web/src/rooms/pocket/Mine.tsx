import { Link } from "@tanstack/react-router";
import { useCallback, useEffect, useState } from "react";
import { LanguageChoice } from "../../parts/LanguageChoice";
import { sayRefused } from "../../parts/refusal";
import { t } from "../../words";
import { Frame } from "./Frame";
import { send } from "./sending";
import { useSignOut } from "./session";
import { drop, type Kept, packs, putDown, type Waiting, waiting } from "./store";

/** What lies on this phone: counts taken along, what waits to be sent, and the way out. */
export function Mine() {
  return (
    <Frame title={t("On this phone")}>
      {({ person, away }) => <Lies named={person?.full_name || person?.username || ""} away={away} />}
    </Frame>
  );
}

function Lies({ named, away }: { named: string; away: boolean }) {
  const [kept, setKept] = useState<Kept[]>([]);
  const [unsent, setUnsent] = useState<Waiting[]>([]);
  const signOut = useSignOut();
  const look = useCallback(async () => {
    setKept(await packs());
    setUnsent(await waiting());
  }, []);
  useEffect(() => void look(), [look]);
  const leave = async () => {
    const lost = unsent.length
      ? `${t("{{count}} line not sent yet will be lost.", { count: unsent.length })} `
      : "";
    if (!window.confirm(`${lost}${t("Sign out? Nothing stays on this phone.")}`)) return;
    try {
      await signOut();
    } catch (error) {
      sayRefused(error, t("You are still signed in: Tarn does not answer."));
    }
  };
  return (
    <div className="grid gap-4 px-4 pt-4 pb-8 text-[14px]">
      <p>
        {t("Signed in as")} <b>{named}</b>
      </p>
      <section>
        <h2 className="pb-1 text-[15px] font-semibold">{t("Waits to be sent")}</h2>
        {unsent.length === 0 && <p className="dim">{t("Nothing: all that was met is noted.")}</p>}
        <ul className="grid gap-1">
          {unsent.map((u) => (
            <li key={u.key} className="sheet flex items-baseline gap-2 px-3 py-2">
              <span className="mono min-w-0 flex-1 truncate">{u.code}</span>
              <span className={u.trouble ? "text-error" : "dim"}>
                {u.trouble ?? (u.met === undefined ? u.place : t("a note or photo"))}
              </span>
              {u.trouble && (
                <button
                  type="button"
                  className="link-quiet font-semibold"
                  onClick={() => void drop(u.key).then(look)}
                >
                  {t("Drop")}
                  <span className="sr-only"> {u.code}</span>
                </button>
              )}
            </li>
          ))}
        </ul>
        {unsent.length > 0 && (
          <button
            type="button"
            className="btn btn-sm mt-2"
            disabled={away}
            onClick={() => void send().then(look)}
          >
            {t("Send now")}
          </button>
        )}
      </section>
      <section>
        <h2 className="pb-1 text-[15px] font-semibold">{t("Taken along")}</h2>
        {kept.length === 0 && <p className="dim">{t("No count. Opening one takes it along.")}</p>}
        <ul className="grid gap-1">
          {kept.map((p) => (
            <li key={p.id} className="sheet flex items-baseline gap-2 px-3 py-2">
              <Link
                to="/pocket/count/$count"
                params={{ count: String(p.id) }}
                search={{}}
                className="link-quiet min-w-0 flex-1 font-semibold"
              >
                {p.name}
              </Link>
              <span className="dim">{t("{{count}} device", { count: p.devices.length })}</span>
              <button
                type="button"
                className="link-quiet font-semibold"
                onClick={() => void putDown(p.id).then(look)}
              >
                {t("Put down")}
                <span className="sr-only"> {p.name}</span>
              </button>
            </li>
          ))}
        </ul>
      </section>
      <LanguageChoice />
      <div className="flex gap-2">
        <Link to="/today" search={{}} className="btn flex-1">
          {t("The whole of Tarn")}
        </Link>
        <button type="button" className="btn flex-1" onClick={() => void leave()}>
          {t("Sign out")}
        </button>
      </div>
    </div>
  );
}
