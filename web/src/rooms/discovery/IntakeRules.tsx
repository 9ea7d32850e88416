import { useQuery, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { toast } from "sonner";
import { asks } from "../../api/asking";
import { client, ok, type Schemas } from "../../api/client";
import { FilterField } from "../../parts/ask/FilterField";
import { Dialog } from "../../parts/Dialog";
import { useDraft } from "../../parts/draft";
import { Choice, FormFoot, TextField } from "../../parts/Form";
import { count, plural } from "../../parts/format";
import { asOrganisation, OrganisationChoice } from "../../parts/Organisation";
import { Sheet, useDone } from "../../parts/Sheet";
import { Table } from "../../parts/table/Table";
import { t } from "../../words";

/** Rules by which intake decides by itself, each rehearsed before it is in force. */
export function IntakeRules({ may }: { may: boolean }) {
  const queries = useQueryClient();
  const [making, setMaking] = useState(false);
  const rules = useQuery(asks("/api/intake/rules"));
  const done = useDone();
  const act = (call: Promise<unknown>) => done(() => call);
  return (
    <Sheet
      id="rules"
      title={t("Rules")}
      hint={t("what is decided by itself; each device once, so that your word stands")}
      className="mb-3"
      actions={
        may && (
          <button type="button" className="btn btn-sm" onClick={() => setMaking(true)}>
            {t("New rule")}
          </button>
        )
      }
    >
      {rules.data && rules.data.length > 0 && (
        <Table
          list="intake-rules"
          label={t("Rules")}
          rows={rules.data}
          rowKey={(r) => r.id}
          columns={[
            { key: "rule", label: t("Rule"), of: (r) => r.name },
            { key: "which", label: t("Which"), of: (r) => r.filter, mono: true },
            {
              key: "does",
              label: t("Does"),
              of: (r) =>
                r.action === "adopt" ? t("adopts") : t("sets aside: {{reason}}", { reason: r.reason }),
            },
            {
              key: "decided",
              label: t("Decided"),
              of: (r) => r.decided,
              cell: (r) => count(r.decided),
              num: true,
            },
            {
              key: "do",
              label: "",
              cell: (r) =>
                may && (
                  <>
                    <button
                      type="button"
                      className="link-quiet mr-3 font-semibold"
                      onClick={() =>
                        act(
                          ok(
                            client.PUT("/api/intake/rules/{number}", {
                              params: { path: { number: r.id } },
                              body: { in_force: !r.in_force },
                            }),
                          ),
                        )
                      }
                    >
                      {r.in_force ? t("Take out of force") : t("Put in force")}
                    </button>
                    <button
                      type="button"
                      className="link-quiet font-semibold"
                      onClick={() =>
                        act(
                          ok(
                            client.DELETE("/api/intake/rules/{number}", {
                              params: { path: { number: r.id } },
                            }),
                          ),
                        )
                      }
                    >
                      {t("Drop")}
                    </button>
                  </>
                ),
              className: "text-right whitespace-nowrap",
            },
          ]}
        />
      )}
      {rules.data?.length === 0 && (
        <p className="dim px-3.5 pb-3 text-[13px]">{t("None yet: everything found waits for a person.")}</p>
      )}
      {making && <NewRule close={() => setMaking(false)} done={() => void queries.invalidateQueries()} />}
    </Sheet>
  );
}

function NewRule({ close, done }: { close: () => void; done: () => void }) {
  const {
    v: values,
    set,
    field,
    attempt,
    submit,
    wrong,
    rest,
  } = useDraft({
    name: "",
    filter: "kind in (workstation, laptop)",
    action: "adopt",
    reason: "",
    organisation: "",
  });
  const [found, setFound] = useState<Schemas["IntakeRehearsedOut"] | null>(null);
  const rehearse = async () => {
    setFound(null);
    await attempt(async () =>
      setFound(await ok(client.POST("/api/intake/rules/rehearse", { body: { filter: values.filter } }))),
    );
  };
  const save = submit(async () => {
    const made = await ok(
      client.POST("/api/intake/rules", {
        body: {
          ...values,
          action: values.action as "adopt" | "aside",
          organisation: asOrganisation(values.organisation),
          in_force: true,
        },
      }),
    );
    toast.success(
      t("“{{name}}” is in force; it decided of {{devices}}.", {
        name: made.name,
        devices: plural(made.decided, "device"),
      }),
    );
    done();
    close();
  });
  return (
    <Dialog title={t("New rule")} close={close}>
      <form onSubmit={save}>
        <TextField label={t("Name")} required {...field("name")} />
        <FilterField
          label={t("Which devices at intake")}
          value={values.filter}
          set={(filter) => {
            set({ filter });
            setFound(null);
          }}
          wrong={wrong("filter")}
          hint={t("A filter, as on the ask line.")}
        />
        <Choice
          label={t("What it does")}
          {...field("action")}
          options={[
            ["adopt", t("adopts them into the register")],
            ["aside", t("sets them aside")],
          ]}
        />
        <OrganisationChoice
          label={t("Of whose devices")}
          none={t("everybody’s")}
          {...field("organisation")}
        />
        {values.action === "aside" && <TextField label={t("Why")} {...field("reason")} />}
        <p className="mb-2 text-[13px]" role="status">
          <button type="button" className="link-quiet font-semibold" onClick={rehearse}>
            {t("Rehearse")}
          </button>{" "}
          {found && (
            <>
              {t("would decide of")} <b>{plural(found.count, "device")}</b> {t("now")}
              {found.first.length > 0 && (
                <span className="mono dim">
                  : {found.first.join(", ")}
                  {found.count > found.first.length ? " …" : ""}
                </span>
              )}
            </>
          )}
        </p>
        {rest}
        <FormFoot close={close} save={t("Put in force")} />
      </form>
    </Dialog>
  );
}
