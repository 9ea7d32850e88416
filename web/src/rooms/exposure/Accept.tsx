import { useQueryClient } from "@tanstack/react-query";
import { toast } from "sonner";
import { client, ok } from "../../api/client";
import { FilterField } from "../../parts/ask/FilterField";
import { Dialog } from "../../parts/Dialog";
import { daysFrom } from "../../parts/days";
import { useDraft } from "../../parts/draft";
import { FormFoot, TextField } from "../../parts/Form";
import { today } from "../../parts/format";
import { t } from "../../words";

interface Props {
  /** The advisory, or the rule of our own where it is one. */
  advisory: string;
  own?: boolean;
  filter: string;
  close: () => void;
}

/** Accept what is open to an advisory until a day; afterwards it is open again by itself. */
export function Accept({ advisory, own = false, filter, close }: Props) {
  const queries = useQueryClient();
  const { v, field, set, wrong, submit, rest } = useDraft({
    filter,
    until: daysFrom(today(), 90),
    reason: "",
  });
  const save = submit(async () => {
    const all = await ok(
      client.POST("/api/exposure/accepted", { body: { advisory, own, product: "", ...v } }),
    );
    toast.success(
      all[0]?.state === "accepted"
        ? t("It is accepted until that day.")
        : t("It waits: of the gravest grade a second person has to look at it."),
    );
    await queries.invalidateQueries();
    close();
  });
  return (
    <Dialog title={`Accept ${advisory}`} close={close}>
      <form onSubmit={save}>
        <FilterField
          label={t("On which devices")}
          value={v.filter}
          set={(text) => set({ filter: text })}
          wrong={wrong("filter")}
          hint={t("Empty for all that are open to it.")}
        />
        <TextField label={t("Until")} type="date" required {...field("until")} />
        <TextField
          label={t("Why")}
          required
          rows={3}
          {...field("reason")}
          hint={t("What makes it bearable, and what stands in its way.")}
        />
        {rest}
        <FormFoot close={close} save={t("Accept")} />
      </form>
    </Dialog>
  );
}
