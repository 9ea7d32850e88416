import { useQuery } from "@tanstack/react-query";
import { asks } from "../../api/asking";
import { client, ok } from "../../api/client";
import { FilterField } from "../../parts/ask/FilterField";
import { Dialog } from "../../parts/Dialog";
import { useDraft } from "../../parts/draft";
import { Choice, FormFoot, TextField } from "../../parts/Form";
import { t } from "../../words";
import type { Card } from "./answers";
import { BLANK, newKey, WAYS } from "./cards";

interface Props {
  held: Card | null;
  put: (card: Card) => void;
  close: () => void;
}

const OF = [
  ["question", "a question"],
  ["report", "a report"],
  ["text", "words"],
] as const;

/** Write a card: of what it is, how it is shown, by what it is divided, as of when. It is tried before it is put up. */
export function CardForm({ held, put, close }: Props) {
  const begun = held ?? { ...BLANK, key: newKey() };
  const { v, field, number, set, save, rest, busy } = useDraft(
    { ...begun, columns: begun.columns.join(", ") },
    { close },
  );
  const reports = useQuery({ ...asks("/api/reports/list"), enabled: v.of === "report" });
  const bands = (useQuery(asks("/api/boards")).data?.bands ?? []).map((b) => [b, b] as const);
  const two = v.shown === "stacked" || v.shown === "heat";
  const one = v.shown === "bars" || v.shown === "ring";
  const keep = save(async () => {
    const card: Card = { ...v, columns: v.columns.split(/[\s,]+/).filter(Boolean) };
    const [told] = await ok(
      client.POST("/api/boards/answers", { body: { cards: [card as unknown as Record<string, unknown>] } }),
    );
    if (told?.trouble) throw new Error(told.trouble);
    put(card);
    return "";
  });
  return (
    <Dialog title={held ? t("Change this card") : t("Put a card here")} close={close} wide>
      <form onSubmit={keep}>
        <TextField label={t("Title")} required {...field("title")} />
        <div className="grid gap-x-4 sm:grid-cols-2">
          <Choice
            label={t("It is of")}
            value={v.of}
            set={(of) => set({ of, shown: WAYS[of][0] ?? "text", by: "" })}
            options={OF}
          />
          <Choice
            label={t("Shown as")}
            value={v.shown}
            set={(shown) => set({ shown })}
            options={WAYS[v.of].map((w) => [w, w] as const)}
          />
        </div>
        {v.of === "text" && <TextField label={t("Words")} rows={4} {...field("text")} />}
        {v.of === "question" && (
          <FilterField
            label={t("Question")}
            placeholder={t("empty for all devices of the register")}
            {...field("filter")}
          />
        )}
        {v.of === "report" && (
          <Choice
            label={t("Report")}
            value={v.report}
            set={(report) => set({ report })}
            options={[["", t("choose one")], ...(reports.data ?? []).map((r) => [r.key, r.name] as const)]}
          />
        )}
        {v.of === "question" && v.shown === "ring" && (
          <FilterField
            label={t("As a share of")}
            placeholder={t("another question, instead of “divided by”")}
            {...field("whole")}
          />
        )}
        {v.of === "question" && (one || two) && (
          <div className="grid gap-x-4 sm:grid-cols-2">
            <Choice
              label={t("Divided by")}
              value={v.by}
              set={(by) => set({ by })}
              options={[["", "nothing"], ...bands]}
            />
            {two && (
              <Choice
                label={t("And by")}
                value={v.and_by}
                set={(and_by) => set({ and_by })}
                options={[["", t("choose one")], ...bands]}
              />
            )}
          </div>
        )}
        {v.of === "report" && one && <TextField label={t("Counted by the column")} mono {...field("by")} />}
        {v.of === "report" && v.shown === "figure" && (
          <TextField
            label={t("Adds up the column")}
            hint={t("Empty for the number of lines.")}
            mono
            {...field("sum")}
          />
        )}
        {v.shown === "list" && (
          <TextField
            label={t("Columns")}
            hint={t("Names of fields, parted by commas; six at the most.")}
            mono
            {...field("columns")}
          />
        )}
        {(v.shown === "line" || v.shown === "figure") && v.of === "question" && (
          <TextField label={t("Days back")} {...number("days")} least={1} most={730} />
        )}
        {v.of !== "text" && (
          <TextField
            label={t("Pinned to a day")}
            hint={t("Empty for the day the board is asked of.")}
            type="date"
            {...field("at")}
          />
        )}
        {rest}
        <FormFoot close={close} busy={busy} save={held ? t("Save") : t("Put it up")} />
      </form>
    </Dialog>
  );
}
