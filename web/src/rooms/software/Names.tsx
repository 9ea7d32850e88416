import { useQuery, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { toast } from "sonner";
import { asks } from "../../api/asking";
import { client, ok, type Schemas } from "../../api/client";
import { OfferedField } from "../../parts/ask/OfferedField";
import { Dialog } from "../../parts/Dialog";
import { useDraft } from "../../parts/draft";
import { Choice, FormFoot, TextField } from "../../parts/Form";
import { count, plural } from "../../parts/format";
import { useMay } from "../../parts/me";
import { Sheet, useDone } from "../../parts/Sheet";
import { Table } from "../../parts/table/Table";
import { t } from "../../words";

type Field = "name" | "product" | "publisher";

const ROLES: [string, string][] = [
  ["", t("leave as it is")],
  ["product", "a product"],
  ["update", t("an update")],
  ["driver", "a driver"],
  ["run-time", "a run-time"],
  ["component", t("a part of something")],
];

/** Names nothing understands yet, and the company's corrections. */
export function Names() {
  const [correcting, setCorrecting] = useState<string | null>(null);
  const may = useMay("plan");
  const done = useDone();
  const names = useQuery(asks("/api/software/names"));
  const rules = useQuery(asks("/api/names/corrections"));
  return (
    <>
      <Sheet
        id="nameless"
        title={t("Not understood yet")}
        hint={t("listed names that no rule makes sense of")}
      >
        {names.data?.length === 0 && (
          <p className="dim px-3.5 pb-3 text-[13px]">{t("Every listed name is understood.")}</p>
        )}
        {names.data && names.data.length > 0 && (
          <Table
            list="not-understood"
            label={t("Not understood yet")}
            rows={names.data}
            rowKey={(n) => n.name}
            columns={[
              { key: "listed_as", label: t("Listed as"), of: (n) => n.name, mono: true },
              { key: "publisher", label: t("Publisher"), of: (n) => n.publisher, className: "dim" },
              {
                key: "devices",
                label: t("Devices"),
                of: (n) => n.devices,
                cell: (n) => count(n.devices),
                num: true,
              },
              {
                key: "because",
                label: t("Because"),
                of: (n) => n.why.join("; "),
                className: "dim",
              },
              {
                key: "do",
                label: "",
                cell: (n) =>
                  may && (
                    <button
                      type="button"
                      className="link-quiet font-semibold"
                      onClick={() => setCorrecting(n.name)}
                    >
                      {t("Say what it is")}
                    </button>
                  ),
                className: "text-right",
              },
            ]}
          />
        )}
      </Sheet>
      <Sheet
        id="corrections"
        title={t("Corrections")}
        hint={t("they apply to the past as well, in this order")}
        actions={
          may && (
            <button type="button" className="btn btn-sm" onClick={() => setCorrecting("")}>
              {t("New correction")}
            </button>
          )
        }
      >
        {rules.data?.length === 0 && (
          <p className="dim px-3.5 pb-3 text-[13px]">
            {t(
              "None. The general rules take releases, architectures, languages and editions off names by themselves.",
            )}
          </p>
        )}
        {rules.data && rules.data.length > 0 && (
          <Table
            list="corrections"
            label={t("Corrections")}
            rows={rules.data}
            rowKey={(r) => r.id}
            columns={[
              { key: "where_the", label: t("Where the"), of: (r) => r.field },
              { key: "is", label: "is", of: (r) => r.match, mono: true },
              {
                key: "it_is",
                label: t("it is"),
                of: (r) =>
                  [r.product, r.publisher && t("by {{publisher}}", { publisher: r.publisher }), r.role]
                    .filter(Boolean)
                    .join(", "),
              },
              { key: "note", label: t("Note"), of: (r) => r.note, className: "dim" },
              { key: "by", label: t("By"), of: (r) => r.made_by, className: "dim" },
              {
                key: "do",
                label: "",
                cell: (r) =>
                  may && (
                    <button
                      type="button"
                      className="link-quiet font-semibold"
                      onClick={() =>
                        done(
                          () =>
                            ok(
                              client.DELETE("/api/names/corrections/{number}", {
                                params: { path: { number: r.id } },
                              }),
                            ),
                          t("Dropped; what it changed changes back."),
                        )
                      }
                    >
                      {t("Drop")}
                    </button>
                  ),
                className: "text-right",
              },
            ]}
          />
        )}
      </Sheet>
      {correcting !== null && (
        <CorrectDialog
          field={correcting ? "name" : "product"}
          match={correcting}
          close={() => setCorrecting(null)}
        />
      )}
    </>
  );
}

/** Say what a listed name, a product or a publisher is; rehearsed before it is saved. */
export function CorrectDialog({
  field: of,
  match,
  close,
}: {
  field: Field;
  match: string;
  close: () => void;
}) {
  const queries = useQueryClient();
  const [changes, setChanges] = useState<Schemas["RenamedOut"][] | null>(null);
  const {
    v: values,
    field,
    attempt,
    submit,
    rest,
  } = useDraft(
    { field: of, match, product: "", publisher: "", role: "", note: "" },
    { changed: () => setChanges(null) },
  );
  const rehearse = async () => {
    await attempt(async () => {
      setChanges(await ok(client.POST("/api/names/corrections/rehearse", { body: values })));
    });
  };
  const save = submit(async () => {
    const made = await ok(client.POST("/api/names/corrections", { body: values }));
    toast.success(
      t("Corrected: {{names}} changed, in the past as well.", { names: plural(made.changed, "listed name") }),
    );
    await queries.invalidateQueries();
    close();
  });
  return (
    <Dialog title={t("Correct a name")} close={close}>
      <form onSubmit={save}>
        <div className="grid grid-cols-2 gap-3">
          <Choice
            label={t("Where the")}
            {...field("field")}
            options={[
              ["name", t("listed name")],
              ["product", "product"],
              ["publisher", "publisher"],
            ]}
          />
          <TextField label={t("is")} {...field("match")} hint={t("A pattern stands between slashes.")} />
          <OfferedField of="software.product" label={t("the product is")} {...field("product")} />
          <OfferedField of="software.publisher" label={t("the publisher is")} {...field("publisher")} />
        </div>
        <Choice label={t("and it is")} {...field("role")} options={ROLES} />
        <TextField label={t("Note")} {...field("note")} />
        {changes && (
          <div className="max-h-40 overflow-auto rounded bg-base-200 px-3 py-2 text-[13px]">
            <p className="font-semibold">
              {changes.length
                ? t("{{names}} would change:", { names: plural(changes.length, "listed name") })
                : t("Nothing would change.")}
            </p>
            {changes.slice(0, 20).map((c) => (
              <p key={c.name}>
                <span className="mono">{c.name}</span>: {c.before} →{" "}
                <b className="font-semibold">{c.after}</b>
              </p>
            ))}
          </div>
        )}
        {rest}
        <div className="mt-2">
          <button type="button" className="btn btn-sm" onClick={rehearse}>
            {t("Rehearse")}
          </button>
        </div>
        <FormFoot close={close} save={t("Correct")} />
      </form>
    </Dialog>
  );
}
