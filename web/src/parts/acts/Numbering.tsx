import { useState } from "react";
import { client, ok, type Schemas } from "../../api/client";
import { t, word } from "../../words";
import { useDraft } from "../draft";
import { Choice, FormFoot, TextField } from "../Form";
import { useDone } from "../Sheet";

type Scheme = Schemas["SchemeOut"];
type Choices = Schemas["LabelChoices"];

/** The company's own numbers: a scheme by kind, with what checks them. */
export function Numbering({ choices, close }: { choices: Choices; close: () => void }) {
  const [open, setOpen] = useState<Scheme | null | undefined>(undefined);
  if (open !== undefined)
    return <SchemeForm held={open} checks={choices.checks} close={() => setOpen(undefined)} />;
  return (
    <>
      <p className="dim pb-2 text-[13px]">
        {t("Devices get the next number of their kind’s scheme when labels are printed, and keep it.")}
      </p>
      <ul className="grid gap-1.5 pb-3 text-[13px]">
        {choices.schemes.map((s) => (
          <li key={s.id} className="sheet flex items-baseline gap-3 px-3 py-2">
            <b>{s.name}</b>
            <span className="dim min-w-0 flex-1">{s.kinds.join(", ") || t("all other kinds")}</span>
            <span className="mono">{s.example || t("used up")}</span>
            <button type="button" className="link-quiet font-semibold" onClick={() => setOpen(s)}>
              {t("Change")}
              <span className="sr-only"> {s.name}</span>
            </button>
          </li>
        ))}
        {choices.schemes.length === 0 && <li className="dim">{t("There is none yet.")}</li>}
      </ul>
      <div className="flex gap-2">
        <button type="button" className="btn" onClick={() => setOpen(null)}>
          {t("Another scheme")}
        </button>
        <span className="flex-1" />
        <button type="button" className="btn" onClick={close}>
          {t("Back to the labels")}
        </button>
      </div>
    </>
  );
}

function SchemeForm(props: { held: Scheme | null; checks: string[]; close: () => void }) {
  const { held, checks, close } = props;
  const done = useDone("labels");
  const begun = {
    name: held?.name ?? "",
    kinds: held?.kinds.join(", ") ?? "",
    prefix: held?.prefix ?? "",
    digits: held?.digits ?? 5,
    check: held?.check ?? "mod 11,10",
    next: held?.next ?? 1,
  };
  const { v, field, number, save, rest, busy } = useDraft(begun, { close, anew: "labels" });
  const keep = save(async () => {
    const body = {
      name: v.name,
      kinds: v.kinds
        .split(",")
        .map((k) => k.trim())
        .filter(Boolean),
      prefix: v.prefix,
      digits: Number(v.digits),
      check: v.check,
      next: Number(v.next),
      version: held?.version ?? null,
    };
    if (held)
      await ok(client.PUT("/api/labels/schemes/{number}", { params: { path: { number: held.id } }, body }));
    else await ok(client.POST("/api/labels/schemes", { body }));
    return t("“{{name}}” is kept.", { name: v.name });
  });
  const drop = () =>
    done(
      () =>
        ok(client.DELETE("/api/labels/schemes/{number}", { params: { path: { number: held?.id ?? 0 } } })),
      t("Dropped; numbers it gave stay."),
    ).then(close);
  return (
    <form onSubmit={keep}>
      <TextField label={t("Name")} {...field("name")} required placeholder={t("Laptops")} />
      <TextField
        label={t("Kinds")}
        {...field("kinds")}
        hint={t("with commas; none: all that have no scheme of theirs")}
      />
      <div className="grid gap-x-4 sm:grid-cols-3">
        <TextField label={t("Before it")} {...field("prefix")} mono placeholder={t("SF-L")} />
        <TextField label={t("Figures")} {...number("digits")} least={1} most={12} />
        <TextField label={t("Next")} {...number("next")} least={0} />
      </div>
      <Choice
        label={t("Checked by")}
        {...field("check")}
        options={checks.map((c) => [c, CHECK_WORDS[c] ?? c] as const)}
      />
      {rest}
      <FormFoot close={close} busy={busy} drop={held ? () => void drop() : undefined} />
    </form>
  );
}

const CHECK_WORDS: Record<string, string> = {
  none: word("nothing"),
  "mod 11,10": t("a figure (ISO/IEC 7064, MOD 11,10)"),
  "mod 37,36": t("a figure or letter (ISO/IEC 7064, MOD 37,36)"),
  luhn: t("a figure (ISO/IEC 7812-1)"),
};
