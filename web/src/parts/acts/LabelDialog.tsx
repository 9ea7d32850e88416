import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { asks } from "../../api/asking";
import { client, ok, postFile, type Schemas } from "../../api/client";
import { t } from "../../words";
import { Dialog } from "../Dialog";
import { useDraft } from "../draft";
import { Choice, FormFoot, TextField, Tick } from "../Form";
import { shortDay } from "../format";
import { useMay } from "../me";
import { Problem, Waiting } from "../Problem";
import { useDone } from "../Sheet";
import { Numbering } from "./Numbering";

interface Props {
  /** The devices: those of a filter, or these. */
  filter: string | null;
  assets: number[];
  /** What is labelled, in words, and how many devices that is, where that is known. */
  named: string;
  total: number | null;
  close: () => void;
}

/** Print labels of devices on a sheet or strip; those that have one get it again. */
export function LabelDialog(props: Props) {
  const asked = useQuery(asks("/api/labels/choices"));
  return (
    <Dialog title={t("Labels for {{named}}", { named: props.named })} close={props.close}>
      {asked.error ? (
        <Problem error={asked.error} />
      ) : asked.data ? (
        <>
          <Printing {...props} choices={asked.data} />
          {props.assets.length === 1 && props.assets[0] !== undefined && <Printed asset={props.assets[0]} />}
        </>
      ) : (
        <Waiting what={t("Fetching the sheets …")} />
      )}
    </Dialog>
  );
}

function Printing({
  filter,
  assets,
  named,
  total,
  close,
  choices,
}: Props & { choices: Schemas["LabelChoices"] }) {
  const begun = {
    sheet: choices.sheets[0]?.key ?? "",
    code: choices.codes[0] ?? "",
    begin: 1,
    right: 0,
    down: 0,
    give: choices.schemes.length > 0,
  };
  const { v, field, number, set, tick, wrong, save, rest, busy } = useDraft(begun, { close, anew: "assets" });
  const [words, setWords] = useState(false);
  const [numbering, setNumbering] = useState(false);
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
      give_numbers: v.give,
    });
    return t("Labels for {{named}} are written to a file.", { named });
  });
  if (numbering) return <Numbering choices={choices} close={() => setNumbering(false)} />;
  if (words) return <Words held={choices.words} close={() => setWords(false)} />;
  return (
    <form onSubmit={print}>
      <Choice
        label={t("Sheet")}
        value={v.sheet}
        set={(key) => set({ sheet: key })}
        wrong={wrong("sheet")}
        options={choices.sheets.map((s) => [s.key, s.name] as const)}
        hint={
          sheet && sheet.labels > 1
            ? t("{{labels}} labels a sheet", { labels: sheet.labels })
            : t("one label a piece")
        }
      />
      <Choice label={t("Code")} {...field("code")} options={choices.codes.map((c) => [c, c] as const)} />
      <div className="grid gap-x-4 sm:grid-cols-3">
        <TextField label={t("First free label")} {...number("begin")} least={1} most={sheet?.labels} />
        <TextField label={t("Moved right, mm")} {...number("right")} step={0.5} wrong={wrong("moved")} />
        <TextField label={t("Moved down, mm")} {...number("down")} step={0.5} />
      </div>
      {choices.schemes.length > 0 && (
        <Tick
          label={t("First give those without a company number the next one of their kind")}
          {...tick("give")}
        />
      )}
      <p className="dim pb-2 text-[13px]">
        {t(
          "Each says the number, the name{{which}}{{which2}}. Any phone reads it: whoever works here is led to the device, anybody else is told whom to call.",
          {
            which: choices.words.company ? `, “${choices.words.company}”` : "",
            which2: choices.words.phone ? t(" and {{phone}}", { phone: choices.words.phone }) : "",
          },
        )}{" "}
        {may && (
          <button type="button" className="link-quiet font-semibold" onClick={() => setWords(true)}>
            {t("Change what they say")}
          </button>
        )}{" "}
        {may && (
          <button type="button" className="link-quiet font-semibold" onClick={() => setNumbering(true)}>
            {t("Company numbers")}
          </button>
        )}
      </p>
      {rest}
      <FormFoot close={close} busy={busy} save={t("Write the PDF")} />
    </form>
  );
}

/** The labels a device has, and a word for the one that came off. */
function Printed({ asset }: { asset: number }) {
  const held = useQuery(asks("/api/assets/{asset}/labels", { params: { path: { asset } } }));
  const done = useDone("assets");
  if (!held.data?.length) return null;
  return (
    <>
      <h3 className="border-t border-base-300 pt-3 text-[13px] font-semibold">{t("Its labels")}</h3>
      <ul className="text-[13px]">
        {held.data.map((label) => (
          <li key={label.code} className="flex items-baseline gap-3 py-1">
            <span className="mono">{label.code}</span>
            <span className="dim min-w-0 flex-1">
              {label.lost_at
                ? t("lost since {{lost_at}}", { lost_at: shortDay(label.lost_at) })
                : t("printed {{which}}{{which2}}", {
                    which:
                      label.printed === 1 ? t("once") : t("{{printed}} times", { printed: label.printed }),
                    which2: label.printed_at
                      ? t(", last {{printed_at}}", { printed_at: shortDay(label.printed_at) })
                      : "",
                  })}
            </span>
            {!label.lost_at && (
              <button
                type="button"
                className="link-quiet font-semibold"
                onClick={() =>
                  void done(
                    () =>
                      ok(client.POST("/api/labels/{code}/lost", { params: { path: { code: label.code } } })),
                    t("It counts as lost; the next one printed has another code."),
                  )
                }
              >
                {t("It is lost")}
              </button>
            )}
          </li>
        ))}
      </ul>
    </>
  );
}

function Words({ held, close }: { held: Schemas["WordsOut"]; close: () => void }) {
  const { v, field, save, rest, busy } = useDraft(held, { close, anew: "labels" });
  const keep = save(async () => {
    await ok(client.PUT("/api/labels/words", { body: v }));
    return t("Labels say so from now on.");
  });
  return (
    <form onSubmit={keep}>
      <TextField label={t("Company")} {...field("company")} />
      <TextField label={t("Phone of whoever takes calls")} {...field("phone")} />
      <TextField label={t("What a finder is told")} rows={2} {...field("words")} />
      {rest}
      <FormFoot close={close} busy={busy} />
    </form>
  );
}
