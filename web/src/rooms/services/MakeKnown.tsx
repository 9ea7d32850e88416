import { flushSync } from "react-dom";
import { client, ok, type Schemas } from "../../api/client";
import { useDraft } from "../../parts/draft";
import { Choice, TextField } from "../../parts/Form";
import { Sheet, useDone } from "../../parts/Sheet";
import { Tried } from "./Tried";
import { useTried } from "./useTried";

export const INSTANCES = ["a device", "a device and port", "a device and account"].map(
  (i) => [i, i] as const,
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
    return `“${v.name}” is known, now and in the past.`;
  });
  const say = (word: string, said: string) =>
    void done(async () => {
      const params = { path: { key: told.key } };
      await ok(client.POST("/api/services/programs/{key}/word", { params, body: { word, why: "" } }));
      flushSync(leave);
    }, said);
  return (
    <Sheet id="known" title="Make it known as" className="">
      <form onSubmit={keep} className="px-3.5 pb-3">
        <fieldset disabled={!may}>
          <TextField label="Name" required {...field("name")} />
          <TextField
            label="The rule, as read from its samples"
            mono
            rows={3}
            {...field("rule")}
            hint="Over command, name, account, listens and unit of a process."
          />
          <TextField
            label="Version from"
            mono
            {...field("version")}
            hint="A pattern; its first bracket is the version. Empty where none is told."
          />
          <Choice label="One instance is" {...field("instance")} options={INSTANCES} />
        </fieldset>
        <Tried told={tried.told} />
        {rest}
        {may && (
          <div className="mt-2 flex flex-wrap gap-2">
            <button type="submit" className="btn btn-sm btn-primary" disabled={busy}>
              Put in force
            </button>
            {!tried.told && (
              <button type="button" className="btn btn-sm" onClick={() => attempt(() => tried.ask(v))}>
                Try it
              </button>
            )}
            <span className="flex-1" />
            {told.left_alone ? (
              <button
                type="button"
                className="btn btn-sm"
                onClick={() => say("back", "It is unknown again.")}
              >
                Look at it again
              </button>
            ) : (
              <>
                <button type="button" className="btn btn-sm" onClick={() => say("parted", "They are apart.")}>
                  Part them
                </button>
                <button
                  type="button"
                  className="btn btn-sm"
                  onClick={() => say("alone", "It is left alone.")}
                >
                  Leave it alone
                </button>
              </>
            )}
          </div>
        )}
      </form>
    </Sheet>
  );
}
