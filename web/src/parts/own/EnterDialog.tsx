import { useQueryClient } from "@tanstack/react-query";
import { useNavigate } from "@tanstack/react-router";
import { useState } from "react";
import { toast } from "sonner";
import { client, ok } from "../../api/client";
import { t } from "../../words";
import { Dialog } from "../Dialog";
import { useDraft } from "../draft";
import { Choice, TextField } from "../Form";
import { OwnInputs } from "./OwnInputs";
import { fieldsOf, kindWords, useOwn } from "./own";

const TEXTS = [
  ["name", t("Name")],
  ["serial", t("Serial number")],
  ["manufacturer", t("Manufacturer")],
  ["model", t("Model")],
  ["mac", t("Hardware address")],
  ["address", t("Network address")],
  ["person", t("Holder")],
  ["department", t("Department")],
  ["place", t("Place")],
  ["note", t("Note")],
] as const;

/** Enter an asset that no network shows, or not yet; a sweep that sees it later finds this one. */
export function EnterDialog({ close }: { close: () => void }) {
  const own = useOwn().data;
  const queries = useQueryClient();
  const navigate = useNavigate();
  const { v, set, field, submit, wrong, rest } = useDraft({ kind: "", mine: {} as Record<string, string> });
  const { kind, mine } = v;
  const [values, setValues] = useState<Record<string, string>>({});
  const save = submit(async () => {
    const given = Object.fromEntries(TEXTS.map(([k]) => [k, (values[k] ?? "").trim()]));
    const told = Object.fromEntries(Object.entries(mine).filter(([, v]) => v !== ""));

    const made = await ok(
      client.POST("/api/register", {
        body: {
          ...(given as Record<(typeof TEXTS)[number][0], string>),
          kind,
          state: "in use",
          own: told,
          uuid: "",
        },
      }),
    );
    await queries.invalidateQueries();
    toast.success(t("It is in the register."));
    await navigate({ to: "/assets/$asset", params: { asset: String(made.asset) }, search: {} });
  });
  return (
    <Dialog title={t("Enter an asset by hand")} close={close} wide>
      <form onSubmit={save}>
        <p className="dim mb-3 text-[13px]">
          {t(
            "For what no network shows, or not yet. Where a sweep or a file later tells of the same serial number or hardware address, the two become one.",
          )}
        </p>
        <div className="grid grid-cols-2 gap-x-3">
          <Choice
            label={t("Kind")}
            {...field("kind")}
            options={[
              ["", t("choose a kind")],
              ...(own?.kinds ?? []).map((k): [string, string] => [k.name, kindWords(k)]),
            ]}
          />
          {TEXTS.map(([key, label]) => (
            <TextField
              key={key}
              label={label}
              value={values[key] ?? ""}
              set={(v) => setValues({ ...values, [key]: v })}
              wrong={wrong(key)}
            />
          ))}
        </div>
        <OwnInputs
          fields={fieldsOf(own, kind)}
          values={mine}
          set={(one) => set({ mine: one })}
          wrong={wrong}
        />
        {rest}
        <div className="mt-3 flex justify-end gap-2">
          <button type="button" className="btn" onClick={close}>
            {t("Leave")}
          </button>
          <button type="submit" className="btn btn-primary">
            {t("Enter it")}
          </button>
        </div>
      </form>
    </Dialog>
  );
}
