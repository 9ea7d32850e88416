import { useQuery } from "@tanstack/react-query";
import { useNavigate, useSearch } from "@tanstack/react-router";
import { useState } from "react";
import { asks } from "../../api/asking";
import { client, ok, type Schemas } from "../../api/client";
import { Dialog } from "../../parts/Dialog";
import { useDraft } from "../../parts/draft";
import { FormFoot, TextField } from "../../parts/Form";
import { ago, moment, plural } from "../../parts/format";
import { useMay } from "../../parts/me";
import { Empty, Unanswered } from "../../parts/Problem";
import { Sheet, useDone } from "../../parts/Sheet";
import type { Search } from "../../search";
import { t } from "../../words";
import { InquiryColumns } from "./InquiryColumns";

type Told = Schemas["InquiryOut"];

const words = (text: string) =>
  text
    .split(",")
    .map((w) => w.trim())
    .filter(Boolean);

/** The bad hour: what one has, an address, a name, a ticket, and everything known of it side by side. */
export function Inquiry({ at }: { at: string | undefined }) {
  const { q = "", from } = useSearch({ strict: false }) as Search;
  const navigate = useNavigate();
  const number = from ? Number(from) : undefined;
  const asked = useQuery({
    ...asks("/api/services/inquiry", { params: { query: { of: words(q), number, as_of: at } } }),
    enabled: q !== "" || number !== undefined,
    placeholderData: (before) => before,
  });
  const go = (of: string[], kept = number) =>
    void navigate({
      to: "/services",
      search: ((before: Search) => ({
        ...before,
        tab: "inquiry",
        q: of.join(", ") || undefined,
        from: of.length && kept ? String(kept) : undefined,
      })) as never,
    });
  const told = q === "" && number === undefined ? undefined : asked.data;
  const of = told?.words.map((w) => w.word) ?? words(q);
  return (
    <>
      <Asking of={of} told={told} go={go} />
      {asked.error || (asked.isLoading && !told) ? (
        <Unanswered asked={asked} what={t("Looking into it …")} />
      ) : told ? (
        <>
          <Telling told={told} at={at} go={go} of={of} />
          {told.columns.length === 0 ? (
            <Empty title={t("Nothing stands for that.")}>
              {t(
                "An address, a device’s name or number, a person, a ticket, a service or a certificate’s name does.",
              )}
            </Empty>
          ) : (
            <InquiryColumns told={told} at={at} />
          )}
          <Notes notes={told.notes} />
        </>
      ) : (
        <Latest go={go} />
      )}
    </>
  );
}

interface AskingProps {
  of: string[];
  told: Told | undefined;
  go: (of: string[]) => void;
}

function Asking({ of, told, go }: AskingProps) {
  const [typed, setTyped] = useState("");
  const add = (event: React.FormEvent) => {
    event.preventDefault();
    if (typed.trim()) go([...new Set([...of, ...words(typed)])]);
    setTyped("");
  };
  return (
    <form onSubmit={add} className="pt-2.5">
      <div className="flex flex-wrap items-center gap-1.5 rounded-[9px] border border-primary bg-base-100 px-2.5 py-1.5 focus-within:outline-2 focus-within:outline-primary">
        {of.map((word) => {
          const found = told?.words.find((w) => w.word === word);
          const name = told?.columns.find((c) => c.asset === found?.assets[0])?.name;
          return (
            <span key={word} className="tag inline-flex items-center gap-1.5 !text-[13px]">
              <b className="mono">{word}</b>
              {found && found.assets.length === 1 && name !== word && (
                <span>
                  {t("is")} {name}
                </span>
              )}
              {found && found.assets.length > 1 && (
                <span>
                  {t("is a {{what}}: {{devices}}", {
                    what: found.what,
                    devices: plural(found.assets.length, "device"),
                  })}
                </span>
              )}
              {found?.trouble && <span className="text-error">{found.trouble}</span>}
              <button
                type="button"
                aria-label={t("Without {{word}}", { word })}
                onClick={() => go(of.filter((w) => w !== word))}
              >
                ×
              </button>
            </span>
          );
        })}
        <input
          className="mono min-w-56 flex-1 bg-transparent py-1 text-[14px] outline-none"
          aria-label={t("Look into")}
          placeholder={t("an address, a name, a person, a ticket, a service …")}
          value={typed}
          onChange={(e) => setTyped(e.target.value)}
        />
        <button type="submit" className="btn btn-sm btn-primary">
          {t("Look into it")}
        </button>
      </div>
    </form>
  );
}

interface TellingProps {
  told: Told;
  of: string[];
  at: string | undefined;
  go: (of: string[], kept?: number) => void;
}

function Telling({ told, of, at, go }: TellingProps) {
  const [why, setWhy] = useState(false);
  return (
    <div className="flex flex-wrap items-start gap-x-3 gap-y-2 py-2.5">
      <div className="min-w-64 flex-1 text-[13.5px]" aria-live="polite">
        {told.telling.length === 0 ? (
          <p>{told.columns.length > 0 && t("Nothing about these is out of the ordinary.")}</p>
        ) : (
          <p>
            <b>{t("Most telling:")}</b>{" "}
            {told.telling
              .slice(0, 3)
              .map((step) => step.text)
              .join("; ")}
            .{" "}
            <button
              type="button"
              className="link-quiet font-semibold"
              aria-expanded={why}
              onClick={() => setWhy(!why)}
            >
              {why ? t("Enough of why") : t("Why these")}
            </button>
          </p>
        )}
        {why && (
          <ol className="list-decimal pt-1 pl-6 text-[13px]">
            {told.telling.map((step) => (
              <li key={`${step.sort} ${step.text}`} className="py-0.5">
                {step.text}{" "}
                <span className="dim">
                  {t("weighs {{weight}}: {{why}}", { weight: step.weight, why: step.why })}
                </span>
              </li>
            ))}
          </ol>
        )}
        {told.beside.length > 0 && (
          <p className="dim pt-1 text-[13px]">
            {t("Look beside at what they stand on:")}{" "}
            {told.beside.map((b) => (
              <button
                key={b.asset}
                type="button"
                className="link-quiet mono mr-2"
                onClick={() => go([...of, b.name])}
              >
                + {b.name}
              </button>
            ))}
          </p>
        )}
      </div>
      <Doing told={told} of={of} at={at} go={go} />
    </div>
  );
}

function Doing({ told, of, at, go }: TellingProps) {
  const [noting, setNoting] = useState(false);
  const done = useDone();
  const [mayNote, maySweep] = [useMay("keep"), useMay("sweep") && !at];
  const query = new URLSearchParams(of.map((w) => ["of", w]));
  if (told.number) query.set("number", String(told.number));
  if (at) query.set("as_of", at);
  const again = () =>
    void done(async () => {
      for (const column of told.columns)
        if (column.address)
          await ok(client.POST("/api/look-again", { body: { address: column.address, only: "" } }));
    }, t("They are being read again."));
  if (told.columns.length === 0) return null;
  return (
    <div className="flex gap-2">
      {mayNote && (
        <button type="button" className="btn btn-sm" onClick={() => setNoting(true)}>
          {t("Note")}
        </button>
      )}
      <a className="btn btn-sm" href={`/api/services/inquiry/sheet/pdf?${query}`} download>
        {t("Sheet (PDF)")}
      </a>
      <a className="btn btn-sm" href={`/api/services/inquiry/sheet/html?${query}`} download>
        {t("Sheet (HTML)")}
      </a>
      {maySweep && (
        <button type="button" className="btn btn-sm btn-primary" onClick={again}>
          {t("Read all again")}
        </button>
      )}
      {noting && (
        <Noting
          number={told.number}
          of={of}
          close={() => setNoting(false)}
          kept={(number) => go(of, number)}
        />
      )}
    </div>
  );
}

interface NotingProps {
  number: number | null;
  of: string[];
  close: () => void;
  kept: (number: number) => void;
}

function Noting({ number, of, close, kept }: NotingProps) {
  const { field, v, save, rest, busy } = useDraft({ text: "" }, { close });
  const write = save(async () => {
    const made = await ok(
      client.POST("/api/services/inquiry/notes", { body: { text: v.text, words: of, number } }),
    );
    if (made.number) kept(made.number);
    return t("It is noted, with its time.");
  });
  return (
    <Dialog title={t("Note")} close={close}>
      <form onSubmit={write}>
        <TextField label={t("What was found or done")} rows={4} required autoFocus {...field("text")} />
        {rest}
        <FormFoot close={close} save={t("Note it")} busy={busy} />
      </form>
    </Dialog>
  );
}

function Notes({ notes }: { notes: Schemas["InquiryNoteOut"][] }) {
  if (notes.length === 0) return null;
  return (
    <Sheet id="notes" title={t("Notes")}>
      <ul className="px-3.5 pb-3 text-[13.5px]">
        {notes.map((n) => (
          <li key={n.id} className="grid gap-x-3 border-t border-base-300 py-1.5 sm:grid-cols-[180px_1fr]">
            <span className="dim">
              {moment(n.at)}, {n.by}
            </span>
            <span className="whitespace-pre-line">{n.text}</span>
          </li>
        ))}
      </ul>
    </Sheet>
  );
}

function Latest({ go }: { go: (of: string[], kept?: number) => void }) {
  const asked = useQuery(asks("/api/services/inquiries"));
  return (
    <>
      <Empty title={t("What is going on?")}>
        {t(
          "Type what you have: an address, a device’s name, a person, a ticket, a service; several, parted by commas. Each becomes a column, all under one clock.",
        )}
      </Empty>
      {asked.data && asked.data.length > 0 && (
        <Sheet id="latest" title={t("Kept with their notes")}>
          <ul className="px-3.5 pb-3 text-[13.5px]">
            {asked.data.map((k) => (
              <li key={k.number} className="py-0.5">
                <button type="button" className="link-quiet mono" onClick={() => go(k.words, k.number)}>
                  {k.words.join(", ")}
                </button>{" "}
                <span className="dim">
                  {t("{{notes}}, begun {{opened_at}} by {{opened_by}}", {
                    notes: plural(k.notes, "note"),
                    opened_at: ago(k.opened_at),
                    opened_by: k.opened_by,
                  })}
                </span>
              </li>
            ))}
          </ul>
        </Sheet>
      )}
    </>
  );
}
