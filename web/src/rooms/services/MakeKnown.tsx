import { flushSync } from "react-dom";
import { client, ok, type Schemas } from "../../api/client";
import { useDraft } from "../../parts/draft";
import { Choice, TextField } from "../../parts/Form";
import { Sheet, useDone } from "../../parts/Sheet";
import { t, word } from "../../words";
import { Tried } from "./Tried";
import { useTried } from "./useTried";

export const INSTANCES = ["a device", "a device and port", "a device and account"].map(
  (i) => [i, word(i)] as const,
);

interface Props {
  told: Schemas["ProgramOut"];
  may: boolean;
  /** Called once something was said of it: it may be no such group any more, and is drawn so before it is asked anew. */
  leave: () => void;
}

/** Make a group of unknown programs known: a name, the rule read from its samples, and what that rule fits. */
export function MakeKnown({ told, may, leave }: Props) {
  const { name, rule, version, instance } = told;
  const tried = useTried(told.tried, [told.key]);
  const { v, field, save, attempt, rest, busy } = useDraft(
    { name, rule, version, instance },
    { anew: "/api/services", changed: tried.forget },
  );
  const done = useDone("/api/services");
  const keep = save(async () => {
    await ok(
      client.POST("/api/services/recognisers", { body: { ...v, note: "", general: false, in_force: true } }),
    );
    flushSync(leave);
    return t("“{{name}}” is known, now and in the past.", { name: v.name });
  });
  const say = (word: string, said: string) =>
    void done(async () => {
      const params = { path: { key: told.key } };
      await ok(client.POST("/api/services/programs/{key}/word", { params, body: { word, why: "" } }));
      flushSync(leave);
    }, said);
  return (
    <Sheet id="known" title={t("Make it known as")} className="">
      <form onSubmit={keep} className="px-3.5 pb-3">
        <fieldset disabled={!may}>
          <TextField label={t("Name")} required {...field("name")} />
          <TextField
            label={t("The rule, as read from its samples")}
            mono
            rows={3}
            {...field("rule")}
            hint={t("Over command, name, account, listens and unit of a process.")}
          />
          <TextField
            label={t("Version from")}
            mono
            {...field("version")}
            hint={t("A pattern; its first bracket is the version. Empty where none is told.")}
          />
          <Choice label={t("One instance is")} {...field("instance")} options={INSTANCES} />
        </fieldset>
        <Tried told={tried.told} />
        {rest}
        {may && (
          <div className="mt-2 flex flex-wrap gap-2">
            <button type="submit" className="btn btn-sm btn-primary" disabled={busy}>
              {t("Put in force")}
            </button>
            {!tried.told && (
              <button type="button" className="btn btn-sm" onClick={() => attempt(() => tried.ask(v))}>
                {t("Try it")}
              </button>
            )}
            <span className="flex-1" />
            {told.left_alone ? (
              <button
                type="button"
                className="btn btn-sm"
                onClick={() => say("back", t("It is unknown again."))}
              >
                {t("Look at it again")}
              </button>
            ) : (
              <>
                <button
                  type="button"
                  className="btn btn-sm"
                  onClick={() => say("parted", t("They are apart."))}
                >
                  {t("Part them")}
                </button>
                <button
                  type="button"
                  className="btn btn-sm"
                  onClick={() => say("alone", t("It is left alone."))}
                >
                  {t("Leave it alone")}
                </button>
              </>
            )}
          </div>
        )}
      </form>
    </Sheet>
  );
}
