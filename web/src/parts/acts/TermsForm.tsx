import { client, ok, type Schemas } from "../../api/client";
import { t, word } from "../../words";
import { Dialog } from "../Dialog";
import { useDraft } from "../draft";
import { Choice, FormFoot, TextField } from "../Form";
import { MidCourse } from "./MidCourse";

export const METHODS = ["straight line", "declining balance", "sum of years' digits"] as const;
export const CONVENTIONS = ["full month", "mid-month", "by day"] as const;

export interface Depreciation {
  months: string;
  residual: string;
  method: string;
  convention: string;
  factor: string;
}

/** By what something is written down: alike for a rule and for one asset. */
export function DepreciationFields(props: {
  v: Depreciation;
  set: (change: Partial<Depreciation>) => void;
  wrong: (field: string) => string | undefined;
  residual: string;
}) {
  const { v, set, wrong } = props;
  return (
    <div className="grid gap-x-3 sm:grid-cols-2">
      <TextField
        label={t("Useful life, months")}
        type="number"
        value={v.months}
        set={(months) => set({ months })}
        wrong={wrong("months")}
        required
      />
      <TextField
        label={props.residual}
        value={v.residual}
        set={(residual) => set({ residual })}
        wrong={wrong("residual")}
      />
      <Choice
        label={t("Method")}
        value={v.method}
        set={(method) => set({ method })}
        wrong={wrong("method")}
        options={METHODS.map((m) => [m, word(m)] as const)}
      />
      <Choice
        label={t("Months count")}
        value={v.convention}
        set={(convention) => set({ convention })}
        wrong={wrong("convention")}
        options={[
          ["full month", t("the first one whole")],
          ["mid-month", t("the first one half")],
          ["by day", t("day by day")],
        ]}
      />
      {v.method === "declining balance" && (
        <TextField
          label={t("Rate, percent of straight line")}
          type="number"
          value={v.factor}
          set={(factor) => set({ factor })}
          wrong={wrong("factor")}
          hint={t("200 is double.")}
        />
      )}
    </div>
  );
}

/** Terms for one asset in place of its rule's, and changes of its life in mid-course. */
export function TermsForm(props: { asset: number; money: Schemas["AssetMoneyOut"]; close: () => void }) {
  const { asset, money, close } = props;
  const held = money.terms;
  const { v, set, field, save, wrong, rest } = useDraft(
    {
      cost: held?.cost ?? "",
      start: held?.start ?? "",
      months: String(held?.months ?? 36),
      residual: held?.residual ?? "0",
      method: held?.method ?? "straight line",
      convention: held?.convention ?? "full month",
      factor: String(held?.factor ?? 200),
      why: money.own?.why ?? "",
      revisions: (money.own ? (held?.revisions ?? []) : []).map((r) => ({
        ...r,
        months_left: String(r.months_left),
      })),
    },
    { anew: "valuation", close },
  );
  const { revisions } = v;
  const submit = save(async () => {
    await ok(
      client.PUT("/api/valuation/assets/{asset}/terms", {
        params: { path: { asset } },
        body: {
          ...v,
          start: v.start || null,
          months: Number(v.months),
          factor: Number(v.factor),
          revisions: revisions.map((r) => ({ ...r, months_left: Number(r.months_left) })),
          version: money.own?.version ?? 0,
        },
      }),
    );
    return t("It has terms of its own.");
  });
  const drop = save(async () => {
    await ok(client.DELETE("/api/valuation/assets/{asset}/terms", { params: { path: { asset } } }));
    return t("Its rule holds for it again.");
  });
  return (
    <Dialog title={t("Terms of its own")} close={close}>
      <form onSubmit={submit}>
        <div className="grid gap-x-3 sm:grid-cols-2">
          <TextField
            label={t("Cost, {{currency}}", { currency: money.currency })}
            {...field("cost")}
            required
          />
          <TextField label={t("Written down from")} type="date" {...field("start")} required />
        </div>
        <DepreciationFields
          v={v}
          set={set}
          wrong={wrong}
          residual={t("Left in the end, {{currency}}", { currency: money.currency })}
        />
        <MidCourse
          legend={t("Change in mid-course")}
          more={t("Change of life in mid-course")}
          fields={[
            ["day", t("From"), "date"],
            ["months_left", t("Months left then"), "number"],
            ["residual", t("Left in the end"), "text"],
          ]}
          rows={revisions}
          set={(one) => set({ revisions: one })}
          begun={{ day: "", months_left: "12", residual: "0" }}
          wrong={wrong("revisions")}
        />
        <TextField label={t("Why")} {...field("why")} />
        {rest}
        <FormFoot
          close={close}
          drop={money.own ? () => void drop() : undefined}
          dropped={t("Let its rule hold")}
        />
      </form>
    </Dialog>
  );
}
