import { useState } from "react";
import { client, ok, type Schemas } from "../../api/client";
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
        Devices get the next number of their kind’s scheme when labels are printed, and keep it.
      </p>
      <ul className="grid gap-1.5 pb-3 text-[13px]">
        {choices.schemes.map((s) => (
          <li key={s.id} className="sheet flex items-baseline gap-3 px-3 py-2">
            <b>{s.name}</b>
            <span className="dim min-w-0 flex-1">{s.kinds.join(", ") || "all other kinds"}</span>
            <span className="mono">{s.example || "used up"}</span>
            <button type="button" className="link-quiet font-semibold" onClick={() => setOpen(s)}>
              Change<span className="sr-only"> {s.name}</span>
            </button>
          </li>
        ))}
        {choices.schemes.length === 0 && <li className="dim">There is none yet.</li>}
      </ul>
      <div className="flex gap-2">
        <button type="button" className="btn" onClick={() => setOpen(null)}>
          Another scheme
        </button>
        <span className="flex-1" />
        <button type="button" className="btn" onClick={close}>
          Back to the labels
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
    return `“${v.name}” is kept.`;
  });
  const drop = () =>
    done(
      () =>
        ok(client.DELETE("/api/labels/schemes/{number}", { params: { path: { number: held?.id ?? 0 } } })),
      "Dropped; numbers it gave stay.",
    ).then(close);
  return (
    <form onSubmit={keep}>
      <TextField label="Name" {...field("name")} required placeholder="Laptops" />
      <TextField
        label="Kinds"
        {...field("kinds")}
        hint="with commas; none: all that have no scheme of theirs"
      />
      <div className="grid gap-x-4 sm:grid-cols-3">
        <TextField label="Before it" {...field("prefix")} mono placeholder="SF-L" />
        <TextField label="Figures" {...number("digits")} least={1} most={12} />
        <TextField label="Next" {...number("next")} least={0} />
      </div>
      <Choice
        label="Checked by"
        {...field("check")}
        options={checks.map((c) => [c, CHECK_WORDS[c] ?? c] as const)}
      />
      {rest}
      <FormFoot close={close} busy={busy} drop={held ? () => void drop() : undefined} />
    </form>
  );
}

const CHECK_WORDS: Record<string, string> = {
  none: "nothing",
  "mod 11,10": "a figure (ISO/IEC 7064, MOD 11,10)",
  "mod 37,36": "a figure or letter (ISO/IEC 7064, MOD 37,36)",
  luhn: "a figure (ISO/IEC 7812-1)",
};
