import { useQuery, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { toast } from "sonner";
import { asks, under } from "../../api/asking";
import { client, ok, type Schemas } from "../../api/client";
import { Dialog } from "../../parts/Dialog";
import { useDraft } from "../../parts/draft";
import { Choice, FormFoot, TextField, Tick } from "../../parts/Form";
import { agoWords, iso } from "../../parts/format";
import { useOrganisations } from "../../parts/Organisation";
import { Problem } from "../../parts/Problem";
import { Sheet } from "../../parts/Sheet";
import { Table } from "../../parts/table/Table";
import { t, word } from "../../words";
import { AccountDialog } from "./AccountDialog";

type Person = Schemas["PersonOut"];

type Role = Schemas["RightsIn"]["role"];

const ROLES = ["viewer", "operator", "manager", "administrator"].map((r) => [r, r] as const);

/** Accounts and organisations: who may do what, and for whom. */
export function People() {
  const [form, setForm] = useState<Person | "new" | null>(null);
  const [making, setMaking] = useState(false);
  const [open, setOpen] = useState<Person | null>(null);
  const people = useQuery(asks("/api/people"));
  const organisations = useOrganisations().data ?? [];
  const named = (ids: number[]) =>
    ids.map((id) => organisations.find((o) => o.id === id)?.name ?? "").join(", ");
  return (
    <Sheet
      id="people"
      title={t("People")}
      className=""
      actions={
        <>
          <button type="button" className="btn btn-sm" onClick={() => setMaking(true)}>
            {t("New organisation")}
          </button>
          <button type="button" className="btn btn-sm" onClick={() => setForm("new")}>
            {t("New account")}
          </button>
        </>
      }
    >
      {people.error && <Problem error={people.error} />}
      <Table
        list="accounts"
        label={t("People")}
        rows={people.data ?? []}
        rowKey={(p) => p.id}
        columns={[
          {
            key: "name",
            label: t("Name"),
            of: (p) => p.full_name || p.username,
            cell: (p) => (
              <>
                <button type="button" className="link-quiet font-semibold" onClick={() => setOpen(p)}>
                  {p.full_name || p.username}
                </button>
                {!p.active && <span className="tag ml-2">{t("switched off")}</span>}
              </>
            ),
          },
          { key: "signs_in_as", label: t("Signs in as"), of: (p) => p.username, mono: true },
          { key: "role", label: t("Role"), of: (p) => word(p.role) },
          {
            key: "sees",
            label: t("Sees"),
            of: (p) => (p.limits.length ? named(p.limits) : t("everything")),
            cell: (p) => (p.limits.length ? named(p.limits) : <span className="dim">{t("everything")}</span>),
          },
          {
            key: "second_factor",
            label: t("Second factor"),
            of: (p) => (p.factors.length ? t("yes") : t("none")),

            className: "dim",
          },
          {
            key: "last_sign_in",
            label: t("Last sign-in"),
            of: (p) => p.last_sign_in && iso(p.last_sign_in),
            cell: (p) => (p.last_sign_in ? agoWords(iso(p.last_sign_in)) : t("never")),
            className: "dim whitespace-nowrap",
          },
          {
            key: "do",
            label: "",
            cell: (p) => (
              <button type="button" className="link-quiet font-semibold" onClick={() => setForm(p)}>
                {t("Rights")}
              </button>
            ),
            className: "text-right",
          },
        ]}
      />
      {organisations.length > 0 && (
        <p className="dim px-4 py-2 text-[13px]">
          {t(
            "Organisations: {{organisations}}. What is of one is never shown to people limited to another.",
            { organisations: organisations.map((o) => o.name).join(", ") },
          )}
        </p>
      )}
      {form !== null && <PersonForm person={form === "new" ? null : form} close={() => setForm(null)} />}
      {open && <AccountDialog person={open} close={() => setOpen(null)} />}
      {making && <OrganisationForm close={() => setMaking(false)} />}
    </Sheet>
  );
}

function PersonForm({ person, close }: { person: Person | null; close: () => void }) {
  const {
    v: values,
    set,
    field,
    tick,
    submit,
    wrong,
    rest,
  } = useDraft({
    username: "",
    full_name: "",
    email: "",
    password: "",
    elsewhere: false,
    role: (person?.role ?? "viewer") as Role,
  });
  const [limits, setLimits] = useState(person?.limits ?? []);
  const organisations = useOrganisations().data ?? [];
  const queries = useQueryClient();
  const save = submit(async () => {
    const rights = { role: values.role, limits };
    if (person) {
      const path = { number: person.id };
      await ok(client.PUT("/api/people/{number}", { params: { path }, body: rights }));
    } else await ok(client.POST("/api/people", { body: { ...values, limits } }));
    await queries.invalidateQueries(under("people"));
    toast.success(t("Saved."));
    close();
  });
  return (
    <Dialog
      title={
        person
          ? t("Rights of {{full_name}}", { full_name: person.full_name || person.username })
          : t("New account")
      }
      close={close}
    >
      <form onSubmit={save} autoComplete="off">
        {!person && (
          <>
            <TextField label={t("Signs in as")} mono required {...field("username")} />
            <TextField label={t("Full name")} {...field("full_name")} />
            <TextField
              label={t("Mail address")}
              {...field("email")}
              hint={t("Where a letter goes if they forget their password.")}
            />
            <Tick
              label={t("Signs in by the directory or the company’s provider, without a password here")}
              {...tick("elsewhere")}
            />
            {!values.elsewhere && (
              <TextField
                label={t("Password")}
                type="password"
                required
                {...field("password")}
                hint={t("Twelve characters or more, and none of the common ones.")}
              />
            )}
          </>
        )}
        <Choice
          label={t("Role")}
          value={values.role}
          set={(role) => set({ role: role as Role })}
          options={ROLES}
          wrong={wrong("role")}
        />
        {organisations.length > 0 && (
          <fieldset className="mb-2">
            <legend className="mb-1.5 text-[13px] font-semibold">
              {t("Limited to (none: sees everything)")}
            </legend>
            {organisations.map((o) => (
              <Tick
                key={o.id}
                label={o.name}
                on={limits.includes(o.id)}
                set={(on) => setLimits(on ? [...limits, o.id] : limits.filter((l) => l !== o.id))}
              />
            ))}
            {wrong("limits") && <p className="text-[13px] text-error">{wrong("limits")}</p>}
          </fieldset>
        )}
        {rest}
        <FormFoot close={close} />
      </form>
    </Dialog>
  );
}

function OrganisationForm({ close }: { close: () => void }) {
  const { v, field, submit, rest } = useDraft({ name: "" });
  const { name } = v;
  const queries = useQueryClient();
  const save = submit(async () => {
    await ok(client.POST("/api/organisations", { body: { name } }));
    await queries.invalidateQueries(under("organisations"));
    toast.success(t("“{{name}}” is there; sweeps and sources can be made for it.", { name }));
    close();
  });
  return (
    <Dialog title={t("New organisation")} close={close}>
      <form onSubmit={save}>
        <TextField
          label={t("Name")}
          required
          {...field("name")}
          hint={t("It stands with every device and is never changed.")}
        />
        {rest}
        <FormFoot close={close} save={t("Make it")} />
      </form>
    </Dialog>
  );
}
