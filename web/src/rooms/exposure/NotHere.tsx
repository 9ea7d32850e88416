import { useQueryClient } from "@tanstack/react-query";
import { toast } from "sonner";
import { client, ok, type Schemas } from "../../api/client";
import { Dialog } from "../../parts/Dialog";
import { useDraft } from "../../parts/draft";
import { Choice, FormFoot, TextField } from "../../parts/Form";
import { t } from "../../words";

type Said = Schemas["OwnWordIn"];

const WHY: [Said["justification"], string][] = [
  ["vulnerable_code_not_present", t("the vulnerable code is not in it")],
  ["component_not_present", t("the component is not in it")],
  ["vulnerable_code_not_in_execute_path", t("the code is never run")],
  ["vulnerable_code_cannot_be_controlled_by_adversary", t("an attacker cannot get at the code")],
  ["inline_mitigations_already_exist", t("it is mitigated in place")],
];

interface Props {
  advisory: string;
  standing: Schemas["StandingOut"];
  close: () => void;
}

/** Say that a match is none: once, with its reach and its reason. */
export function NotHere({ advisory, standing, close }: Props) {
  const queries = useQueryClient();
  const { v, field, set, submit, rest } = useDraft({
    reach: "release" as NonNullable<Said["reach"]>,
    justification: "vulnerable_code_not_present" as NonNullable<Said["justification"]>,
    reason: "",
  });
  const save = submit(async () => {
    await ok(client.POST("/api/exposure/own-words", { body: { advisory, thing: standing.thing, ...v } }));
    toast.success(t("It is said: from now on this goes before what others tell."));
    await queries.invalidateQueries();
    close();
  });
  const release = `${standing.release} ${standing.version}`.trim();
  return (
    <Dialog title={t("Not affected by {{advisory}}", { advisory })} close={close}>
      <form onSubmit={save}>
        <Choice
          label={t("How far it goes")}
          value={v.reach}
          set={(reach) => set({ reach })}
          options={[
            ["release", t("{{release}}, wherever it is", { release })],
            ["product", t("every release of {{release}}", { release: standing.release })],
            ["advisory", t("everything here: the advisory does not concern us")],
          ]}
        />
        <Choice
          label={t("Because")}
          {...field("justification")}
          options={WHY.map(([k, w]) => [k ?? "", w] as const)}
        />
        <TextField
          label={t("In your own words")}
          required
          rows={3}
          {...field("reason")}
          hint={t("Whoever meets it next reads this; it stands as a dated word and can be taken back.")}
        />
        {rest}
        <FormFoot close={close} save={t("Say so")} />
      </form>
    </Dialog>
  );
}
