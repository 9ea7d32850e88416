import { useState } from "react";
import { client, ok } from "../../api/client";
import { Dialog } from "../../parts/Dialog";
import { FormFoot, TextField, Tick, useFaults } from "../../parts/Form";
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
  const [name, setName] = useState(held?.name ?? "");
  const [replace, setReplace] = useState(false);
  const { setError, wrong, rest } = useFaults();
  const save = async (event: React.FormEvent) => {
    event.preventDefault();
    setError(null);
    const body = { name, filter, settings: settingsOf(draft), version: held?.version ?? 0 };
    try {
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
    } catch (refused) {
      setError(refused);
    }
  };
  return (
    <Dialog title="Keep this scenario" close={close}>
      <form onSubmit={save}>
        <TextField
          label="Name"
          value={name}
          set={setName}
          wrong={wrong("name") ?? wrong("filter")}
          required
        />
        {held && <Tick label={`In place of “${held.name}”`} on={replace} set={setReplace} />}
        {rest}
        <FormFoot close={close} save="Keep" />
      </form>
    </Dialog>
  );
}
