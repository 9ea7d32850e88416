import { useParams } from "@tanstack/react-router";
import { useCallback, useEffect, useRef, useState } from "react";
import { client, ok } from "../../api/client";
import { capital, count as number } from "../../parts/format";
import { Problem, Waiting } from "../../parts/Problem";
import { agoIn, t, word } from "../../words";
import { Frame } from "./Frame";
import { type Last, LastMet } from "./LastMet";
import { resolve, seemsElsewhere } from "./resolve";
import { Scanner } from "./Scanner";
import { send } from "./sending";
import { type Device, type Kept, keep, packOf, takeAlong, type Waiting as Unsent, waiting } from "./store";

const AGAIN = 12_000;

/** Counting with a phone: scan, type or tick; what is met is kept here until Tarn has noted it. */
export function CountAlong() {
  const id = Number((useParams({ strict: false }) as { count: string }).count);
  const [title, setTitle] = useState(t("Count"));
  const [unsent, setUnsent] = useState<Unsent[]>([]);
  const left = unsent.filter((u) => u.met === undefined).length;
  return (
    <Frame
      title={title}
      beside={left > 0 && <span className="tag warn">{t("{{count}} kept here", { count: left })}</span>}
    >
      {({ person, away }) => (
        <Counting
          id={id}
          who={person?.username ?? ""}
          away={away}
          titled={setTitle}
          unsent={unsent}
          setUnsent={setUnsent}
        />
      )}
    </Frame>
  );
}

interface Props {
  id: number;
  who: string;
  away: boolean;
  titled: (title: string) => void;
  unsent: Unsent[];
  setUnsent: (unsent: Unsent[]) => void;
}

function Counting({ id, who, away, titled, unsent, setUnsent }: Props) {
  const [pack, setPack] = useState<Kept | null>(null);
  const [error, setError] = useState<unknown>(null);
  const [place, setPlace] = useState("");
  const [typed, setTyped] = useState("");
  const [sought, setSought] = useState("");
  const [camera, setCamera] = useState(false);
  const [all, setAll] = useState(false);
  const [last, setLast] = useState<Last | null>(null);
  const lastKey = useRef("");

  const show = useCallback(
    (kept: Kept) => {
      setPack(kept);
      titled(`${kept.name} · ${kept.number}`);
    },
    [titled],
  );
  const sync = useCallback(async () => {
    const sent = await send();
    setUnsent(await waiting(id));
    const answer = sent.told.find((line) => line.key === lastKey.current);
    if (answer) setLast(said(answer));
    if (!sent.reached) return;
    const fresh = await ok(client.GET("/api/counts/{number}/pack", { params: { path: { number: id } } }));
    show(await takeAlong(fresh, who));
  }, [id, who, setUnsent, show]);
  const tried = useCallback(
    () =>
      sync().catch(async (failed: unknown) => {
        if (!(await packOf(id))) setError(failed);
      }),
    [sync, id],
  );

  useEffect(() => {
    void packOf(id).then((kept) => kept && show(kept));
    void waiting(id).then(setUnsent);
    const timer = setInterval(() => void tried(), AGAIN);
    return () => clearInterval(timer);
  }, [id, show, setUnsent, tried]);
  useEffect(() => {
    void tried();
  }, [away, tried]);

  const meet = async (code: string, how: Unsent["how"], device?: Device) => {
    if (!pack || !code.trim()) return;
    const found = device ?? resolve(pack.devices, code);
    const met = await keep({
      key: crypto.randomUUID(),
      count: id,
      how,
      code: device ? device.number : code.trim(),
      // Who ticks it at home says that it is where it belongs.
      place: place || (how === "tick" ? (device?.place ?? "") : ""),
      note: "",
      at: Math.floor(Date.now() / 1000),
    });
    lastKey.current = met.key;
    setLast(guessed(met.key, found, code, place));
    if (found) show(await takeAlong(marked(pack, found), who));
    setUnsent(await waiting(id));
    void tried();
  };

  if (error && !pack) return <Problem error={error} retry={() => void tried()} />;
  if (!pack) return <Waiting what={t("Taking the count along …")} />;
  const open = pack.state === "open";
  const done = pack.devices.filter((d) => d.met).length;
  const mine = new Set(Object.keys(pack.counters).filter((p) => pack.counters[p] === who));
  const words = sought.trim().toLowerCase();
  const still = pack.devices.filter(
    (d) =>
      !d.met &&
      (all || mine.size === 0 || mine.has(d.place)) &&
      (!words ||
        `${d.name} ${d.number} ${d.serial} ${d.kind} ${d.model} ${d.place}`.toLowerCase().includes(words)),
  );
  const refused = unsent.filter((u) => u.trouble);
  return (
    <div className="pb-6">
      {camera && open && <Scanner found={(code) => void meet(code, "scan")} />}
      <div className="grid gap-3 px-4 pt-3">
        {!open && (
          <p className="tag warn !whitespace-normal">
            {t("This count is over: nothing more is noted in it.")}
          </p>
        )}
        <div className="flex items-center gap-2">
          <label className="flex min-w-0 flex-1 items-center gap-2 text-[13px]">
            <span className="dim">{t("I am at")}</span>
            <input
              className="input input-sm min-w-0 flex-1"
              list="pocket-places"
              value={place}
              placeholder={t("where it belongs")}
              onChange={(e) => setPlace(e.target.value)}
            />
          </label>
          <datalist id="pocket-places">
            {pack.places.map((p) => (
              <option key={p} value={p} />
            ))}
          </datalist>
          <button
            type="button"
            className={`btn btn-sm ${camera ? "" : "btn-primary"}`}
            disabled={!open}
            aria-pressed={camera}
            onClick={() => setCamera(!camera)}
          >
            {camera ? t("Camera off") : t("Scan")}
          </button>
        </div>
        <form
          className="flex gap-2"
          onSubmit={(e) => {
            e.preventDefault();
            void meet(typed, "typed");
            setTyped("");
          }}
        >
          <input
            className="input min-w-0 flex-1"
            aria-label={t("Number, serial number or name")}
            placeholder={t("number, serial or name")}
            value={typed}
            autoCapitalize="off"
            autoCorrect="off"
            onChange={(e) => setTyped(e.target.value)}
          />
          <button type="submit" className="btn" disabled={!open || !typed.trim()}>
            {t("Met")}
          </button>
        </form>
        <p className="flex items-baseline text-[13.5px]">
          <b>{t("{{done}} of {{of}}", { done: number(done), of: number(pack.devices.length) })}</b>
          <span className="dim ml-2 flex-1">{t("met")}</span>
        </p>
        <progress
          className="progress progress-primary h-2.5 w-full"
          value={done}
          max={pack.devices.length || 1}
        />
        {last && (
          <LastMet
            last={last}
            count={id}
            unsent={unsent}
            changed={() => void waiting(id).then(setUnsent).then(tried)}
          />
        )}
        {refused.length > 0 && (
          <ul className="grid gap-1 text-[13px]" aria-label={t("Not noted")}>
            {refused.map((u) => (
              <li key={u.key} className="tag bad !block !whitespace-normal">
                {u.code}: {u.trouble}
              </li>
            ))}
          </ul>
        )}
        <div className="flex items-center gap-2 pt-1">
          <h2 className="flex-1 text-[14px] font-semibold">{t("Still to find")}</h2>
          {mine.size > 0 && (
            <button type="button" className="btn btn-sm" aria-pressed={all} onClick={() => setAll(!all)}>
              {all ? t("Mine only") : t("All places")}
            </button>
          )}
          <input
            type="search"
            className="input input-sm w-40"
            aria-label={t("Search what is still to find")}
            placeholder={t("search")}
            value={sought}
            onChange={(e) => setSought(e.target.value)}
          />
        </div>
        <ul className="sheet divide-y divide-base-300">
          {still.slice(0, 200).map((d) => (
            <li key={d.number} className="flex items-center gap-3 px-3 py-2">
              <div className="min-w-0 flex-1 text-[13.5px]">
                <b className="mono font-semibold">{d.name || d.number}</b>{" "}
                <span className="dim">
                  {[capital(word(d.kind)), d.model, d.place].filter(Boolean).join(" · ")}
                  {d.heard && `, ${t("heard")} ${agoIn(d.heard)}`}
                </span>
              </div>
              <button
                type="button"
                className="btn btn-sm"
                disabled={!open}
                onClick={() => void meet(d.number, "tick", d)}
              >
                {t("Here")}
                <span className="sr-only">: {d.name || d.number}</span>
              </button>
            </li>
          ))}
          {still.length === 0 && <li className="dim px-3 py-3 text-[13.5px]">{t("All of them are met.")}</li>}
        </ul>
      </div>
    </div>
  );
}

function marked(pack: Kept, device: Device): Kept {
  return {
    ...pack,
    devices: pack.devices.map((d) => (d.number === device.number ? { ...d, met: true } : d)),
  };
}

function guessed(key: string, device: Device | undefined, code: string, place: string): Last {
  if (!device)
    return {
      key,
      id: null,
      title: code.slice(0, 60),
      beside: t("not among those taken along"),
      tag: "note",
      says: t("kept"),
    };
  const away = seemsElsewhere(device, place);
  return {
    key,
    id: null,
    title: device.name || device.number,
    beside: [capital(word(device.kind)), device.model, device.number].filter(Boolean).join(" · "),
    tag: away ? "warn" : "ok",
    says: away ? t("belongs to {{place}}", { place: device.place }) : t("here, as expected"),
  };
}

const SAYS: Record<string, [string, string]> = {
  found: ["ok", t("here, as expected")],
  elsewhere: ["warn", t("belongs elsewhere")],
  "not expected": ["warn", t("not expected")],
  unknown: ["bad", t("no device known")],
};

function said(told: {
  key: string;
  id: number | null;
  state: string | null;
  number: string;
  name: string;
  place: string;
  trouble: string;
  beside: string[];
}): Last {
  const [tag, says] = SAYS[told.state ?? ""] ?? ["bad", told.trouble || t("not noted")];
  const title = told.name || told.number || t("No device");
  return {
    key: told.key,
    id: told.id,
    title,
    beside: [told.number, told.place, ...told.beside].filter(Boolean).join(" · "),
    tag,
    says,
  };
}
