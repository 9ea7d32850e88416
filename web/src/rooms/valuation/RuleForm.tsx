import { client, ok, type Schemas } from "../../api/client";
import { MidCourse } from "../../parts/acts/MidCourse";
import { DepreciationFields } from "../../parts/acts/TermsForm";
import { FilterField } from "../../parts/ask/FilterField";
import { Dialog } from "../../parts/Dialog";
import { useDraft } from "../../parts/draft";
import { FormFoot, TextField } from "../../parts/Form";
import { t } from "../../words";

/** A rule of depreciation: for which assets, over how long, by which method, and changes of that in mid-course. */
export function RuleForm({
  held,
  close,
}: {
  held: Schemas["DepreciationRuleOut"] | null;
  close: () => void;
}) {
  const { v, set, field, save, wrong, rest } = useDraft(
    {
      name: held?.name ?? "",
      filter: held?.filter ?? "",
      months: String(held?.months ?? 36),
      residual: held?.residual ?? "0",
      method: held?.method ?? "straight line",
      convention: held?.convention ?? "full month",
      factor: String(held?.factor ?? 200),
      changes: (held?.changes ?? []).map((c) => ({ ...c, months: String(c.months) })),
    },
    { anew: "valuation", close },
  );
  const { changes } = v;
  const submit = save(async () => {
    const body = {
      ...v,
      months: Number(v.months),
      factor: Number(v.factor),
      changes: changes.map((c) => ({ ...c, months: Number(c.months) })),
      version: held?.version ?? 0,
    };
    if (held)
      await ok(client.PUT("/api/valuation/rules/{number}", { params: { path: { number: held.id } }, body }));
    else await ok(client.POST("/api/valuation/rules", { body }));
    return t("“{{name}}” is {{which}}.", { name: v.name, which: held ? t("changed") : t("made") });
  });
  const drop = save(async () => {
    if (held)
      await ok(client.DELETE("/api/valuation/rules/{number}", { params: { path: { number: held.id } } }));
    return t("“{{name}}” is dropped.", { name: v.name });
  });
  return (
    <Dialog
      title={held ? t("Change {{name}}", { name: held.name }) : t("New rule of depreciation")}
      close={close}
    >
      <form onSubmit={submit}>
        <TextField label={t("Name")} {...field("name")} required />
        <FilterField
          label={t("For assets that answer")}
          {...field("filter")}
          placeholder="kind in (laptop, workstation)"
          hint={t("Empty: every asset.")}
        />
        <DepreciationFields
          v={v}
          set={set}
          wrong={wrong}
          residual={t("Left in the end, percent of the cost")}
        />
        <MidCourse
          legend={t("From a day on")}
          more={t("Change it from a day on")}
          fields={[
            ["day", t("From"), "date"],
            ["months", t("Months in all"), "number"],
            ["residual", t("Left, percent"), "text"],
          ]}
          rows={changes}
          set={(one) => set({ changes: one })}
          begun={{ day: "", months: v.months, residual: "0" }}
          wrong={wrong("changes")}
        />
        <p className="faint pb-2 text-[12px]">
          {t("What is written down by then stays; what is left is spread over the rest of the new life.")}
        </p>
        {rest}
        <FormFoot close={close} drop={held ? () => void drop() : undefined} />
      </form>
    </Dialog>
  );
}
