import { client, ok } from "../../api/client";
import { Dialog } from "../../parts/Dialog";
import { useDraft } from "../../parts/draft";
import { FormFoot, TextField, Tick } from "../../parts/Form";
import { t } from "../../words";
import { type Draft, type Scenario, settingsOf } from "./draft";

/** Keep what was drawn as a scenario: a new one, or in place of the one that was opened. */
export function KeepScenario(props: {
  held: Scenario | null;
  filter: string;
  draft: Draft;
  kept: (made: Scenario) => Promise<void>;
  close: () => void;
}) {
  const { held, filter, draft, kept, close } = props;
  const { v, field, tick, submit, wrong, rest } = useDraft({ name: held?.name ?? "", replace: false });
  const { name, replace } = v;
  const save = submit(async () => {
    const body = { name, filter, settings: settingsOf(draft), version: held?.version ?? 0 };

    const made =
      held && replace
        ? await ok(
            client.PUT("/api/valuation/scenarios/{number}", {
              params: { path: { number: held.id } },
              body,
            }),
          )
        : await ok(client.POST("/api/valuation/scenarios", { body }));
    await kept(made);
  });
  return (
    <Dialog title={t("Keep this scenario")} close={close}>
      <form onSubmit={save}>
        <TextField label={t("Name")} {...field("name")} wrong={wrong("name") ?? wrong("filter")} required />
        {held && <Tick label={t("In place of “{{name}}”", { name: held.name })} {...tick("replace")} />}
        {rest}
        <FormFoot close={close} save={t("Keep")} />
      </form>
    </Dialog>
  );
}
