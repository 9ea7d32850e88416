import { useQuery, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { asks, asksBy } from "../../api/asking";
import { client, ok, type Schemas } from "../../api/client";
import { t } from "../../words";
import { OfferedField } from "../ask/OfferedField";
import { Dialog } from "../Dialog";
import { useDraft } from "../draft";
import { Choice, FormFoot, TextField } from "../Form";
import { capital, plural } from "../format";
import { Problem, Waiting } from "../Problem";
import { Copied } from "../Sheet";
import { undoToast } from "../undo";
import { CoverWords } from "./Cover";

type Step = Schemas["StepRow"];
type Done = Schemas["StepDone"];

const EMPTY = {
  person: "",
  department: "",
  place: "",
  due: "",
  condition: "",
  method: "",
  erasure: "",
  why: "",
  proceeds: "",
  costs: "",
  day: "",
};

interface Props {
  /** Either assets by number, or all that answer a filter, as many as were shown. */
  assets: number[];
  filter?: string;
  total: number;
  named: string;
  /** The step that is offered first. */
  first?: string;
  close: () => void;
}

/** Take a step with one asset or many: what it needs is asked, and what came of it can be undone. */
export function StepDialog({ assets, filter, total, named, first = "", close }: Props) {
  const queries = useQueryClient();
  const { v, set, field, submit, wrong, rest } = useDraft({ ...EMPTY, name: first });
  const { name } = v;
  const [done, setDone] = useState<Done | null>(null);
  const whom = { assets, filter: filter ?? null, expected: filter === undefined ? null : total };
  const open = useQuery({
    ...asksBy("/api/lifecycle/steps/open", { body: whom }),
    gcTime: 0,
  });
  const step = open.data?.find((s) => s.name === name) ?? open.data?.[0];
  const needs = new Set(step?.needs ?? []);
  const take = submit(async () => {
    if (!step) return;

    const told = await ok(
      client.POST("/api/lifecycle/steps/take", {
        body: { step: step.name, ...whom, ...v, due: v.due || null, day: v.day || null },
      }),
    );
    const again = () => void queries.invalidateQueries();
    undoToast(`${named}: ${step.to}.`, told.entry, again);
    await queries.invalidateQueries();
    if (told.acknowledge.length > 0) setDone(told);
    else close();
  });
  if (done) return <Links done={done} close={close} />;
  return (
    <Dialog title={t("Take a step with {{named}}", { named })} close={close}>
      {open.isPending ? <Waiting what={t("Looking what is open to them …")} /> : null}
      {open.error ? <Problem error={open.error} /> : null}
      {open.data?.length === 0 && (
        <>
          <p className="text-[13px]">
            {t(
              "No step is open to {{which}} from where {{which2}}. Narrow the selection to one state, or adapt the steps under Lifecycle.",
              {
                which: total === 1 ? t("it") : t("all of them"),
                which2: total === 1 ? t("it stands") : t("they stand"),
              },
            )}
          </p>
          <div className="mt-3 text-right">
            <button type="button" className="btn" onClick={close}>
              {t("Leave")}
            </button>
          </div>
        </>
      )}
      {step && (
        <form onSubmit={take}>
          <Choice
            label={t("Step")}
            value={step.name}
            set={(one) => set({ name: one })}
            wrong={wrong("step")}
            options={(open.data ?? []).map((s) => [s.name, capital(s.name)] as const)}
            hint={t("Then {{which}} {{to}}.", {
              which: total === 1 ? t("it is") : `these ${total} are`,
              to: step.to,
            })}
          />
          {step.to === "in repair" && assets.length === 1 && <CoverWords asset={assets[0] ?? 0} />}
          <StepFields step={step} v={v} set={set} wrong={wrong} />
          <TextField
            label={needs.has("why") ? t("Why") : t("Why, if there is more to say")}
            {...field("why")}
          />
          {rest}
          <FormFoot
            close={close}
            save={total === 1 ? capital(step.name) : `${capital(step.name)}, ${total}`}
          />
        </form>
      )}
    </Dialog>
  );
}

interface FieldsProps {
  step: Step;
  v: typeof EMPTY;
  set: (change: Partial<typeof EMPTY>) => void;
  wrong: (field: string) => string | undefined;
}

function StepFields({ step, v, set, wrong }: FieldsProps) {
  const needs = new Set(step.needs);
  const people = useQuery({
    ...asks("/api/persons", { params: { query: {} } }),
    enabled: step.hands === "gives",
  });
  const given = step.hands === "gives";
  return (
    <>
      {given && (
        <>
          <TextField
            label={needs.has("receiver") ? t("To whom") : t("Person")}
            value={v.person}
            set={(person) => set({ person })}
            wrong={wrong("person")}
            list={(people.data ?? []).map((p) => p.name)}
            hint={
              needs.has("receiver")
                ? t("A person; or leave it empty and name a department or place.")
                : undefined
            }
          />
          {needs.has("receiver") && (
            <OfferedField
              of="department"
              label={t("Department")}
              value={v.department}
              set={(department) => set({ department })}
            />
          )}
        </>
      )}
      {(given || step.to === "in stock") && (
        <OfferedField of="place" label={t("Place")} value={v.place} set={(place) => set({ place })} />
      )}
      {given && (
        <TextField
          label={needs.has("due") ? t("Back by") : t("Back by, if it is lent")}
          type="date"
          value={v.due}
          set={(due) => set({ due })}
          wrong={wrong("due")}
        />
      )}
      {needs.has("condition") && (
        <TextField
          label={t("Condition it came back in")}
          value={v.condition}
          set={(condition) => set({ condition })}
          wrong={wrong("condition")}
        />
      )}
      {needs.has("method") && (
        <TextField
          label={t("How it is disposed of")}
          value={v.method}
          set={(method) => set({ method })}
          wrong={wrong("method")}
          hint={t("Sold, recycled, given away, destroyed …")}
        />
      )}
      {needs.has("erasure") && (
        <TextField
          label={t("Record of erasure")}
          value={v.erasure}
          set={(erasure) => set({ erasure })}
          wrong={wrong("erasure")}
          hint={t(
            "How and by whom its data were erased, with the certificate's number; or why there is nothing to erase.",
          )}
        />
      )}
      {step.to === "disposed" && (
        <div className="grid grid-cols-2 gap-x-3">
          <TextField
            label={t("Got for each")}
            value={v.proceeds}
            set={(proceeds) => set({ proceeds })}
            wrong={wrong("proceeds")}
            hint={t("Its gain or loss follows.")}
          />
          <TextField
            label={t("Cost of parting")}
            value={v.costs}
            set={(costs) => set({ costs })}
            wrong={wrong("costs")}
          />
        </div>
      )}
    </>
  );
}

/** The links by which those who received something say so; each is shown here once. */
function Links({ done, close }: { done: Done; close: () => void }) {
  return (
    <Dialog title={t("To be acknowledged")} close={close}>
      <p className="dim pb-2 text-[13px]">
        {t(
          "Whoever received {{which}} opens the link and says so; no sign-in is needed. A link is shown here once; Hand-overs can make a new one.",
          { which: done.acknowledge.length === 1 ? t("it") : t("them") },
        )}
      </p>
      <div className="max-h-[50vh] overflow-auto">
        {done.acknowledge.map((a) => (
          <Copied
            key={a.asset}
            label={done.acknowledge.length > 1 ? t("Asset {{asset}}", { asset: a.asset }) : t("Link")}
            text={`${window.location.origin}${a.path}`}
          />
        ))}
      </div>
      <p className="dim pt-2 text-[12px]">
        {t("{{assets}} handed over.", { assets: plural(done.assets, "asset") })}
      </p>
      <div className="mt-3 text-right">
        <button type="button" className="btn btn-primary" onClick={close}>
          {t("Done")}
        </button>
      </div>
    </Dialog>
  );
}
