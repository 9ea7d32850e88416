import { useQuery, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { asks, under } from "../../api/asking";
import { client, ok, type Schemas } from "../../api/client";
import { Dialog } from "../../parts/Dialog";
import { useDraft } from "../../parts/draft";
import { FormFoot, TextField, Tick } from "../../parts/Form";
import { agoWords, count, iso, plural } from "../../parts/format";
import { asOrganisation, OrganisationChoice } from "../../parts/Organisation";
import { Problem } from "../../parts/Problem";
import { Copied, Sheet, Withdraw } from "../../parts/Sheet";
import { Table } from "../../parts/table/Table";
import { t, word } from "../../words";

type Outpost = Schemas["OutpostOut"];
type Network = Schemas["NetworkOut"];

const TONES: Record<string, string> = { "at its post": "ok", away: "warn", refused: "bad" };

/** Outposts: which networks each reaches, whether it is at its post, and what it still keeps. */
export function Outposts({
  networks,
  mayPlan,
  mayKeys,
}: {
  networks: Network[];
  mayPlan: boolean;
  mayKeys: boolean;
}) {
  const queries = useQueryClient();
  const [form, setForm] = useState<Outpost | "new" | null>(null);
  const held = useQuery({
    ...asks("/api/outposts"),
    refetchInterval: 5000,
  });
  const fresh = () => queries.invalidateQueries(under("outposts"));
  return (
    <Sheet
      id="outposts"
      title={t("Outposts")}
      hint={t("sweep the networks that Tarn cannot reach, from within")}
      actions={
        mayKeys && (
          <button type="button" className="btn btn-sm" onClick={() => setForm("new")}>
            {t("New outpost")}
          </button>
        )
      }
    >
      {held.error && <Problem error={held.error} />}
      {held.data && held.data.length > 0 && (
        <Table
          list="outposts"
          label={t("Outposts")}
          rows={held.data}
          rowKey={(o) => o.id}
          columns={[
            { key: "name", label: t("Name"), of: (o) => o.name },
            {
              key: "networks",
              label: t("Networks"),
              of: (o) => o.ranges.join(", "),
              cell: (o) => o.ranges.join(", ") || <span className="faint">{t("none")}</span>,
              mono: true,
            },
            {
              key: "state",
              label: t("State"),
              of: (o) => word(o.state),
              cell: (o) => (
                <>
                  <span className={`tag ${TONES[o.state] ?? ""}`}>{word(o.state)}</span>
                  {o.says && <span className="dim ml-2 text-[12.5px]">{o.says}</span>}
                </>
              ),
            },
            {
              key: "last_heard_from",
              label: t("Last heard from"),
              of: (o) => o.last_seen && iso(o.last_seen),
              cell: (o) => (o.last_seen ? agoWords(iso(o.last_seen)) : t("never")),
              className: "dim whitespace-nowrap",
            },
            { key: "release", label: t("Release"), of: (o) => o.release, mono: true, className: "dim" },
            {
              key: "clock",
              label: t("Clock"),
              of: (o) => (o.last_seen ? o.skew : null),
              cell: (o) => (o.last_seen ? skewWords(o.skew) : ""),
              num: true,
            },
            {
              key: "at_work_on",
              label: t("At work on"),
              of: (o) => o.at_work,
              cell: (o) => (o.at_work ? plural(o.at_work, "address", "addresses") : ""),
              num: true,
            },
            {
              key: "kept_there",
              label: t("Kept there"),
              of: (o) => o.kept,
              cell: (o) => (o.kept ? plural(o.kept, "hand-in") : ""),
              num: true,
            },
            {
              key: "looked_at",
              label: t("Looked at"),
              of: (o) => o.handed,
              cell: (o) => count(o.handed),
              num: true,
            },
            {
              key: "do",
              label: "",
              cell: (o) => (
                <>
                  {mayPlan && (
                    <button
                      type="button"
                      className="link-quiet mr-3 font-semibold"
                      onClick={() => setForm(o)}
                    >
                      {t("Networks")}
                    </button>
                  )}
                  {mayKeys && (
                    <Withdraw
                      what={t("outposts")}
                      name={o.name}
                      then={t("It is refused from then on, and what only it reaches is out of reach.")}
                      call={() =>
                        ok(client.DELETE("/api/outposts/{number}", { params: { path: { number: o.id } } }))
                      }
                    />
                  )}
                </>
              ),
              className: "text-right whitespace-nowrap",
            },
          ]}
        />
      )}
      {held.data?.length === 0 && (
        <p className="dim px-3.5 pb-3 text-[13px]">
          {t("None yet. For a network no route leads to from here, start one on a machine within it.")}
        </p>
      )}
      {form !== null && (
        <OutpostForm
          outpost={form === "new" ? null : form}
          networks={networks.filter((n) => !n.never_probe)}
          close={() => {
            setForm(null);
            void fresh();
            void queries.invalidateQueries(under("networks"));
          }}
        />
      )}
    </Sheet>
  );
}

function skewWords(seconds: number) {
  if (Math.abs(seconds) < 1.5) return "right";
  return `${seconds > 0 ? "+" : "−"}${Math.abs(seconds).toFixed(0)} s`;
}

function OutpostForm(props: { outpost: Outpost | null; networks: Network[]; close: () => void }) {
  const { v, field, submit, wrong, rest } = useDraft({ name: props.outpost?.name ?? "", whose: "" });
  const { name, whose } = v;
  const [picked, setPicked] = useState(new Set(props.outpost?.networks ?? []));
  const [command, setCommand] = useState("");
  const save = submit(async () => {
    const networks = [...picked];

    if (props.outpost) {
      const path = { number: props.outpost.id };
      await ok(client.PUT("/api/outposts/{number}", { params: { path }, body: { networks } }));
      props.close();
    } else {
      const made = await ok(
        client.POST("/api/outposts", { body: { name, networks, organisation: asOrganisation(whose) } }),
      );
      setCommand(made.command);
    }
  });
  if (command)
    return (
      <Dialog title={t("Start “{{name}}”", { name })} close={props.close} wide>
        <p className="mb-2 text-[13px]">
          {t(
            "Install Tarn on a machine in that network and run this there. Its token is in the command and is shown nowhere else.",
          )}
        </p>
        <Copied label={t("its command")} text={command} />
        <p className="dim mt-2 text-[13px]">
          {t(
            "It needs a way to Tarn and none back: it asks for work, and keeps what it finds while the link is down. For an authority of the company's own add",
          )}{" "}
          <span className="mono">{t("--authority FILE")}</span>.
        </p>
        <div className="mt-3 flex justify-end">
          <button type="button" className="btn btn-primary" onClick={props.close}>
            {t("Done")}
          </button>
        </div>
      </Dialog>
    );
  return (
    <Dialog
      title={props.outpost ? t("Networks of “{{name}}”", { name: props.outpost.name }) : t("New outpost")}
      close={props.close}
    >
      <form onSubmit={save}>
        {!props.outpost && (
          <>
            <TextField label={t("Name")} required {...field("name")} />
            <OrganisationChoice label={t("Belongs to")} {...field("whose")} wrong={wrong("organisation")} />
          </>
        )}
        <fieldset>
          <legend className="text-[13px] font-semibold">{t("Reached through it, and not from here")}</legend>
          <div className="mt-2 max-h-64 overflow-y-auto">
            {props.networks.map((n) => (
              <Tick
                key={n.id}
                label={`${n.range}  ${n.name}`}
                on={picked.has(n.id)}
                set={(on) => {
                  const next = new Set(picked);
                  if (on) next.add(n.id);
                  else next.delete(n.id);
                  setPicked(next);
                }}
              />
            ))}
          </div>
          {wrong("networks") && <p className="text-[13px] text-error">{wrong("networks")}</p>}
        </fieldset>
        {rest}
        <FormFoot close={props.close} save={props.outpost ? t("Save") : t("Make it")} />
      </form>
    </Dialog>
  );
}
