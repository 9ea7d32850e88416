import { useQuery, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { asks, under } from "../../api/asking";
import { client, ok, type Schemas } from "../../api/client";
import { Dialog } from "../../parts/Dialog";
import { useDraft } from "../../parts/draft";
import { FormFoot, TextField } from "../../parts/Form";
import { agoWords, iso } from "../../parts/format";
import { asOrganisation, OrganisationChoice } from "../../parts/Organisation";
import { Copied, Sheet, Withdraw } from "../../parts/Sheet";
import { Table } from "../../parts/table/Table";
import { t } from "../../words";

/** Hooks: ways in for other systems that push what they know, or tell that a device changed. */
export function Hooks() {
  const queries = useQueryClient();
  const [making, setMaking] = useState(false);
  const held = useQuery(asks("/api/hooks"));
  const fresh = () => queries.invalidateQueries(under("hooks"));
  return (
    <Sheet
      id="hooks"
      title={t("Inbound hooks")}
      hint={t("for systems that push what they know, signed")}
      actions={
        <button type="button" className="btn btn-sm" onClick={() => setMaking(true)}>
          {t("New hook")}
        </button>
      }
    >
      {held.data && held.data.length > 0 ? (
        <Table
          list="hooks"
          label={t("Inbound hooks")}
          rows={held.data}
          rowKey={(h) => h.id}
          columns={[
            { key: "name", label: t("Name"), of: (h) => h.name },
            {
              key: "last_message",
              label: t("Last message"),
              of: (h) => h.used_at && iso(h.used_at),
              cell: (h) => (h.used_at ? agoWords(iso(h.used_at)) : t("none yet")),
              className: "dim",
            },
            {
              key: "do",
              label: "",
              cell: (h) => (
                <Withdraw
                  what={t("hooks")}
                  name={h.name}
                  then={t("What it sends is refused from then on.")}
                  call={() =>
                    ok(client.DELETE("/api/hooks/{number}", { params: { path: { number: h.id } } }))
                  }
                />
              ),
              className: "text-right",
            },
          ]}
        />
      ) : (
        <p className="dim px-3.5 pb-3 text-[13px]">
          {t("None yet. By a hook another system hands in a sighting, or has a device read again at once.")}
        </p>
      )}
      {making && (
        <NewHook
          close={() => {
            setMaking(false);
            void fresh();
          }}
        />
      )}
    </Sheet>
  );
}

function NewHook({ close }: { close: () => void }) {
  const { v, field, submit, wrong, rest } = useDraft({ name: "", whose: "" });
  const { name, whose } = v;
  const [made, setMade] = useState<Schemas["MadeOut"] | null>(null);
  const make = submit(async () => {
    setMade(await ok(client.POST("/api/hooks", { body: { name, organisation: asOrganisation(whose) } })));
  });
  if (!made)
    return (
      <Dialog title={t("New hook")} close={close}>
        <form onSubmit={make}>
          <TextField
            label={t("Which system")}
            required
            {...field("name")}
            hint={t("It stands beside every value it brings.")}
          />
          <OrganisationChoice
            label={t("Its devices belong to")}
            {...field("whose")}
            wrong={wrong("organisation")}
          />
          {rest}
          <FormFoot close={close} save={t("Make it")} />
        </form>
      </Dialog>
    );
  return (
    <Dialog title={t("The hook “{{name}}”", { name: made.name })} close={close} wide>
      <p className="mb-2 text-[13px]">
        {t(
          "Give these two to the other system. The secret is shown nowhere else; each message is signed with it (Standard Webhooks 1.0: HMAC-SHA256 over id, time stamp and body).",
        )}
      </p>
      <Copied label={t("it posts to")} text={made.url} />
      <Copied label={t("its secret")} text={made.secret} />
      <Copied
        label={t("either a sighting of the source “inventory {{name}}”, or word of a change", {
          name: made.name,
        })}
        text={t('{"sighting": { … }}   {"changed": {"address": "10.60.4.21"}}')}
      />
      <div className="mt-3 flex justify-end">
        <button type="button" className="btn btn-primary" onClick={close}>
          {t("Done")}
        </button>
      </div>
    </Dialog>
  );
}
