import { useQueryClient } from "@tanstack/react-query";
import { useNavigate } from "@tanstack/react-router";
import { useState } from "react";
import { toast } from "sonner";
import { client, ok, type Schemas } from "../../api/client";
import { Dialog } from "../../parts/Dialog";
import { Choice, FormFoot, HoldsFrom, TextField, useFaults } from "../../parts/Form";
import { today } from "../../parts/format";

type Held = Schemas["ContractOut"];

const KINDS = ["support", "maintenance", "lease", "subscription", "service"];

/** Enter a contract, or change one: with whom, for how long, how it goes on, what it costs, what it covers. */
export function ContractForm({ held, close }: { held: Held | null; close: () => void }) {
  const queries = useQueryClient();
  const navigate = useNavigate();
  const [v, setValues] = useState({
    name: held?.name ?? "",
    provider: held?.provider ?? "",
    kind: held?.kind ?? "support",
    number: held?.number ?? "",
    starts: held?.starts ?? "",
    ends: held?.agreed_until ?? "",
    renews: String(held?.renews ?? 0),
    notice: String(held?.notice ?? 0),
    notices: (held?.notices ?? [90, 45, 14]).join(", "),
    cost: held?.cost ?? "",
    currency: held?.currency ?? "",
    every: held?.every ?? "",
    first_payment: held?.first_payment ?? "",
    covers: held?.covers ?? "",
    licences: (held?.licences ?? []).map((l) => l.name).join("\n"),
    people: (held?.people ?? []).map((p) => p.name).join("\n"),
    note: held?.note ?? "",
    holds_from: today(),
  });
  const { setError, wrong, rest } = useFaults();
  const set = (change: Partial<typeof v>) => setValues({ ...v, ...change });
  const save = async (event: React.FormEvent) => {
    event.preventDefault();
    setError(null);
    const body = {
      ...v,
      starts: v.starts || null,
      ends: v.ends || null,
      first_payment: v.first_payment || null,
      licences: v.licences.split("\n"),
      people: v.people.split("\n"),
      renews: Number(v.renews),
      notice: Number(v.notice),
      notices: v.notices
        .split(",")
        .filter((n) => n.trim())
        .map(Number),
      version: held?.version ?? 0,
      holds_from: held ? v.holds_from || null : null,
    };
    try {
      const made = held
        ? await ok(
            client.PUT("/api/lifecycle/contracts/{number}", { params: { path: { number: held.id } }, body }),
          )
        : await ok(client.POST("/api/lifecycle/contracts", { body }));
      toast.success(`“${made.name}” is ${held ? "changed" : "entered"}.`);
      await queries.invalidateQueries({ queryKey: ["lifecycle"] });
      close();
      if (!held)
        await navigate({
          to: "/lifecycle/contracts/$contract",
          params: { contract: String(made.id) },
          search: {},
        });
    } catch (refused) {
      setError(refused);
    }
  };
  return (
    <Dialog title={held ? `Change ${held.name}` : "Enter a contract"} close={close} wide>
      <form onSubmit={save}>
        <div className="grid gap-x-4 sm:grid-cols-2">
          <TextField
            label="Name"
            value={v.name}
            set={(name) => set({ name })}
            wrong={wrong("name")}
            required
          />
          <TextField
            label="Provider"
            value={v.provider}
            set={(provider) => set({ provider })}
            wrong={wrong("provider")}
            required
          />
          <Choice
            label="Kind"
            value={v.kind}
            set={(kind) => set({ kind })}
            wrong={wrong("kind")}
            options={KINDS.map((k): [string, string] => [k, k])}
          />
          <TextField label="Number" mono value={v.number} set={(number) => set({ number })} />
          <TextField
            label="Begins"
            type="date"
            value={v.starts}
            set={(starts) => set({ starts })}
            wrong={wrong("starts")}
            required
          />
          <TextField
            label="First term ends"
            type="date"
            value={v.ends}
            set={(ends) => set({ ends })}
            wrong={wrong("ends")}
            hint="Empty: no end is agreed."
          />
          <TextField
            label="Goes on by, months"
            type="number"
            value={v.renews}
            set={(renews) => set({ renews })}
            wrong={wrong("renews")}
            hint="Unless notice is given; 0: it is over at its end."
          />
          <TextField
            label="Notice, days before the end"
            type="number"
            value={v.notice}
            set={(notice) => set({ notice })}
            wrong={wrong("notice")}
          />
          <TextField
            label="Tell people, days before the end"
            value={v.notices}
            set={(notices) => set({ notices })}
            wrong={wrong("notices")}
            hint="90, 45, 14. A watch on “Notices of what ends” writes them."
          />
          <Choice
            label="Paid"
            value={v.every}
            set={(every) => set({ every })}
            wrong={wrong("every")}
            options={[
              ["", "nothing"],
              ["once", "once"],
              ["month", "each month"],
              ["quarter", "each quarter"],
              ["half year", "each half year"],
              ["year", "each year"],
            ]}
          />
          {v.every && (
            <>
              <div className="grid grid-cols-[1fr_90px] gap-2">
                <TextField
                  label="Amount"
                  value={v.cost}
                  set={(cost) => set({ cost })}
                  wrong={wrong("cost")}
                />
                <TextField
                  label="Currency"
                  mono
                  value={v.currency}
                  set={(currency) => set({ currency })}
                  wrong={wrong("currency")}
                  placeholder="EUR"
                />
              </div>
              <TextField
                label="First payment"
                type="date"
                value={v.first_payment}
                set={(first_payment) => set({ first_payment })}
                hint="Empty: the day it begins."
              />
            </>
          )}
        </div>
        {held && (
          <HoldsFrom
            value={v.holds_from}
            set={(holds_from) => set({ holds_from })}
            wrong={wrong("holds_from")}
            hint="What was paid before stays as it was agreed then."
          />
        )}
        <TextField
          label="Covers the devices that answer"
          mono
          value={v.covers}
          set={(covers) => set({ covers })}
          wrong={wrong("covers")}
          placeholder="kind = printer and place = Saltholm"
          hint="A filter, or a set: in set “…”. Empty: no devices."
        />
        <div className="grid gap-x-4 sm:grid-cols-2">
          <TextField
            label="And the licences"
            rows={2}
            value={v.licences}
            set={(licences) => set({ licences })}
            wrong={wrong("licences")}
            hint="One a line, by name."
          />
          <TextField
            label="And the people"
            rows={2}
            value={v.people}
            set={(people) => set({ people })}
            wrong={wrong("people")}
            hint="One a line, by name."
          />
        </div>
        <TextField label="Note" rows={2} value={v.note} set={(note) => set({ note })} />
        {rest}
        <FormFoot close={close} />
      </form>
    </Dialog>
  );
}
