import { useQuery, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { asks, asksBy } from "../../api/asking";
import { client, ok, type Schemas } from "../../api/client";
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
    <Dialog title={`Take a step with ${named}`} close={close}>
      {open.isPending ? <Waiting what="Looking what is open to them …" /> : null}
      {open.error ? <Problem error={open.error} /> : null}
      {open.data?.length === 0 && (
        <>
          <p className="text-[13px]">
            No step is open to {total === 1 ? "it" : "all of them"} from where{" "}
            {total === 1 ? "it stands" : "they stand"}. Narrow the selection to one state, or adapt the steps
            under Lifecycle.
          </p>
          <div className="mt-3 text-right">
            <button type="button" className="btn" onClick={close}>
              Leave
            </button>
          </div>
        </>
      )}
      {step && (
        <form onSubmit={take}>
          <Choice
            label="Step"
            value={step.name}
            set={(one) => set({ name: one })}
            wrong={wrong("step")}
            options={(open.data ?? []).map((s) => [s.name, capital(s.name)] as const)}
            hint={`Then ${total === 1 ? "it is" : `these ${total} are`} ${step.to}.`}
          />
          {step.to === "in repair" && assets.length === 1 && <CoverWords asset={assets[0] ?? 0} />}
          <StepFields step={step} v={v} set={set} wrong={wrong} />
          <TextField label={needs.has("why") ? "Why" : "Why, if there is more to say"} {...field("why")} />
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
            label={needs.has("receiver") ? "To whom" : "Person"}
            value={v.person}
            set={(person) => set({ person })}
            wrong={wrong("person")}
            list={(people.data ?? []).map((p) => p.name)}
            hint={
              needs.has("receiver")
                ? "A person; or leave it empty and name a department or place."
                : undefined
            }
          />
          {needs.has("receiver") && (
            <OfferedField
              of="department"
              label="Department"
              value={v.department}
              set={(department) => set({ department })}
            />
          )}
        </>
      )}
      {(given || step.to === "in stock") && (
        <OfferedField of="place" label="Place" value={v.place} set={(place) => set({ place })} />
      )}
      {given && (
        <TextField
          label={needs.has("due") ? "Back by" : "Back by, if it is lent"}
          type="date"
          value={v.due}
          set={(due) => set({ due })}
          wrong={wrong("due")}
        />
      )}
      {needs.has("condition") && (
        <TextField
          label="Condition it came back in"
          value={v.condition}
          set={(condition) => set({ condition })}
          wrong={wrong("condition")}
        />
      )}
      {needs.has("method") && (
        <TextField
          label="How it is disposed of"
          value={v.method}
          set={(method) => set({ method })}
          wrong={wrong("method")}
          hint="Sold, recycled, given away, destroyed …"
        />
      )}
      {needs.has("erasure") && (
        <TextField
          label="Record of erasure"
          value={v.erasure}
          set={(erasure) => set({ erasure })}
          wrong={wrong("erasure")}
          hint="How and by whom its data were erased, with the certificate's number; or why there is nothing to erase."
        />
      )}
      {step.to === "disposed" && (
        <div className="grid grid-cols-2 gap-x-3">
          <TextField
            label="Got for each"
            value={v.proceeds}
            set={(proceeds) => set({ proceeds })}
            wrong={wrong("proceeds")}
            hint="Its gain or loss follows."
          />
          <TextField
            label="Cost of parting"
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
    <Dialog title="To be acknowledged" close={close}>
      <p className="dim pb-2 text-[13px]">
        Whoever received {done.acknowledge.length === 1 ? "it" : "them"} opens the link and says so; no
        sign-in is needed. A link is shown here once; Hand-overs can make a new one.
      </p>
      <div className="max-h-[50vh] overflow-auto">
        {done.acknowledge.map((a) => (
          <Copied
            key={a.asset}
            label={done.acknowledge.length > 1 ? `Asset ${a.asset}` : "Link"}
            text={`${window.location.origin}${a.path}`}
          />
        ))}
      </div>
      <p className="dim pt-2 text-[12px]">{plural(done.assets, "asset")} handed over.</p>
      <div className="mt-3 text-right">
        <button type="button" className="btn btn-primary" onClick={close}>
          Done
        </button>
      </div>
    </Dialog>
  );
}
