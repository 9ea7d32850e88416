import { client, ok, type Schemas } from "../../api/client";
import { Dialog } from "../../parts/Dialog";
import { useDraft } from "../../parts/draft";
import { Choice, FormFoot, TextField, Tick } from "../../parts/Form";
import { t } from "../../words";
import { INSTANCES } from "./MakeKnown";
import { Tried } from "./Tried";
import { useTried } from "./useTried";

interface Props {
  held: Schemas["ApplicationOut"];
  may: boolean;
  close: () => void;
}

/** Change a recogniser, or drop it: what it knew is unknown again. */
export function RecogniserForm({ held, may, close }: Props) {
  const tried = useTried(null, []);
  const { name, rule, version, instance, note, in_force } = held;
  const { v, field, tick, save, attempt, rest, busy } = useDraft(
    { name, rule, version, instance, note, in_force },
    { close, anew: "/api/services", changed: tried.forget },
  );
  const path = { number: held.id };
  const keep = save(async () => {
    const body = { ...v, general: held.general, edition: held.edition };
    await ok(client.PUT("/api/services/recognisers/{number}", { params: { path }, body }));
    return t("“{{name}}” is changed, now and in the past.", { name: v.name });
  });
  const drop = save(async () => {
    await ok(client.DELETE("/api/services/recognisers/{number}", { params: { path } }));
    return t("“{{name}}” is dropped: what it knew is unknown again.", { name: held.name });
  });
  return (
    <Dialog title={`“${held.name}”`} close={close} wide>
      <form onSubmit={keep}>
        <fieldset disabled={!may}>
          <TextField label={t("Name")} required {...field("name")} />
          <TextField label={t("Rule")} mono rows={3} {...field("rule")} />
          <TextField label={t("Version from")} mono {...field("version")} />
          <Choice label={t("One instance is")} {...field("instance")} options={INSTANCES} />
          <TextField label={t("Note")} {...field("note")} />
          <Tick label={t("It is in force")} {...tick("in_force")} />
        </fieldset>
        {tried.told && <Tried told={tried.told} />}
        {rest}
        <button type="button" className="btn btn-sm" onClick={() => attempt(() => tried.ask(v))}>
          {t("Try it")}
        </button>
        {may && <FormFoot close={close} drop={drop} busy={busy} />}
      </form>
    </Dialog>
  );
}
