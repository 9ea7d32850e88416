import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { asks } from "../../api/asking";
import { client, ok, postFile, type Schemas } from "../../api/client";
import { Dialog } from "../Dialog";
import { useDraft } from "../draft";
import { Choice, FormFoot, TextField } from "../Form";
import { plural } from "../format";
import { useMay } from "../me";
import { Problem, Waiting } from "../Problem";

interface Props {
  /** The devices: those of a filter, or these. */
  filter: string | null;
  assets: number[];
  total: number;
  close: () => void;
}

/** Print labels of devices on a sheet or strip; those that have one get it again. */
export function LabelDialog(props: Props) {
  const asked = useQuery(asks("/api/labels/choices"));
  return (
    <Dialog title={`Labels for ${plural(props.total, "device")}`} close={props.close}>
      {asked.error ? (
        <Problem error={asked.error} />
      ) : asked.data ? (
        <Printing {...props} choices={asked.data} />
      ) : (
        <Waiting what="Fetching the sheets …" />
      )}
    </Dialog>
  );
}

function Printing({ filter, assets, total, close, choices }: Props & { choices: Schemas["LabelChoices"] }) {
  const begun = {
    sheet: choices.sheets[0]?.key ?? "",
    code: choices.codes[0] ?? "",
    begin: 1,
    right: 0,
    down: 0,
  };
  const { v, field, number, set, wrong, save, rest, busy } = useDraft(begun, { close, anew: "assets" });
  const [words, setWords] = useState(false);
  const may = useMay("plan");
  const sheet = choices.sheets.find((s) => s.key === v.sheet);
  const print = save(async () => {
    const { begin, right, down } = v;
    await postFile("/api/labels/print", {
      sheet: v.sheet,
      code: v.code,
      begin: Number(begin),
      right: Number(right),
      down: Number(down),
      filter,
      assets,
      expected: total,
    });
    return `${plural(total, "label")} written to a file.`;
  });
  if (words) return <Words held={choices.words} close={() => setWords(false)} />;
  return (
    <form onSubmit={print}>
      <Choice
        label="Sheet"
        value={v.sheet}
        set={(key) => set({ sheet: key })}
        wrong={wrong("sheet")}
        options={choices.sheets.map((s) => [s.key, s.name] as const)}
        hint={sheet && sheet.labels > 1 ? `${sheet.labels} labels a sheet` : "one label a piece"}
      />
      <Choice label="Code" {...field("code")} options={choices.codes.map((c) => [c, c] as const)} />
      <div className="grid gap-x-4 sm:grid-cols-3">
        <TextField label="First free label" {...number("begin")} least={1} most={sheet?.labels} />
        <TextField label="Moved right, mm" {...number("right")} step={0.5} wrong={wrong("moved")} />
        <TextField label="Moved down, mm" {...number("down")} step={0.5} />
      </div>
      <p className="dim pb-2 text-[13px]">
        Each says the number, the name
        {choices.words.company ? `, “${choices.words.company}”` : ""}
        {choices.words.phone ? ` and ${choices.words.phone}` : ""}. Any phone reads it: whoever works here is
        led to the device, anybody else is told whom to call.{" "}
        {may && (
          <button type="button" className="link-quiet font-semibold" onClick={() => setWords(true)}>
            Change what they say
          </button>
        )}
      </p>
      {rest}
      <FormFoot close={close} busy={busy} save="Write the PDF" />
    </form>
  );
}

function Words({ held, close }: { held: Schemas["WordsOut"]; close: () => void }) {
  const { v, field, save, rest, busy } = useDraft(held, { close, anew: "labels" });
  const keep = save(async () => {
    await ok(client.PUT("/api/labels/words", { body: v }));
    return "Labels say so from now on.";
  });
  return (
    <form onSubmit={keep}>
      <TextField label="Company" {...field("company")} />
      <TextField label="Phone of whoever takes calls" {...field("phone")} />
      <TextField label="What a finder is told" rows={2} {...field("words")} />
      {rest}
      <FormFoot close={close} busy={busy} />
    </form>
  );
}
