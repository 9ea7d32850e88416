import { useState } from "react";
import { client, ok, type Schemas } from "../../api/client";
import { Dialog } from "../../parts/Dialog";
import { useDraft } from "../../parts/draft";
import { Choice, FormFoot, TextField } from "../../parts/Form";
import { Sheet, useDone } from "../../parts/Sheet";
import { Table } from "../../parts/table/Table";
import { t } from "../../words";
import { deviceColumns } from "./columns";

interface Props {
  told: Schemas["ServiceOut"];
  at: string | undefined;
  may: boolean;
}

/** The members of a service, each with why it is one; put in and taken out by hand beside the rules. */
export function ServiceMembers({ told, at, may }: Props) {
  const [taking, setTaking] = useState<Schemas["MemberOut"] | null>(null);
  const [putting, setPutting] = useState(false);
  const done = useDone();
  const leave = (hand: number) =>
    void done(
      () =>
        ok(
          client.DELETE("/api/services/{number}/members/{hand}", {
            params: { path: { number: told.id, hand } },
          }),
        ),
      t("The rules alone say so again."),
    );
  return (
    <Sheet
      id="members"
      title={t("Members")}
      className=""
      actions={
        may && (
          <button type="button" className="btn btn-sm" onClick={() => setPutting(true)}>
            {t("Put a device in")}
          </button>
        )
      }
    >
      <Table
        list="service-members"
        label={t("Members of the service")}
        rows={told.rows}
        rowKey={(r) => `${r.part} ${r.asset}`}
        columns={[
          ...deviceColumns<Schemas["MemberOut"]>(at),
          { key: "part", label: t("Part"), of: (r) => r.part },
          {
            key: "because",
            label: t("Because"),
            className: "min-w-56",
            of: (r) => r.because.join("; "),
            cell: (r) => (
              <span className="whitespace-normal">
                {r.out && <span className="tag warn mr-1.5">{t("taken out")}</span>}
                {r.because.join("; ")}
              </span>
            ),
          },
          {
            key: "do",
            label: "",
            cell: (r) =>
              may && (
                <button
                  type="button"
                  className="link-quiet font-semibold whitespace-nowrap"
                  onClick={() => (r.hand === null ? setTaking(r) : leave(r.hand))}
                >
                  {r.hand === null ? t("Take out") : t("Leave it to the rules")}
                </button>
              ),
          },
        ]}
      />
      {taking && <TakeOut told={told} member={taking} close={() => setTaking(null)} />}
      {putting && <PutIn told={told} close={() => setPutting(false)} />}
    </Sheet>
  );
}

function TakeOut(props: { told: Schemas["ServiceOut"]; member: Schemas["MemberOut"]; close: () => void }) {
  const { told, member, close } = props;
  const { field, v, save, rest, busy } = useDraft({ why: "" }, { close });
  const take = save(async () => {
    const body = { device: member.number, part: member.part, out: true, why: v.why };
    await ok(client.POST("/api/services/{number}/members", { params: { path: { number: told.id } }, body }));
    return t("{{name}} is no member of “{{part}}”.", { name: member.name, part: member.part });
  });
  return (
    <Dialog
      title={t("Take {{name}} out of “{{part}}”", { name: member.name, part: member.part })}
      close={close}
    >
      <form onSubmit={take}>
        <TextField label={t("Why")} required {...field("why")} hint={t("The rules say it is one.")} />
        {rest}
        <FormFoot close={close} save={t("Take out")} busy={busy} />
      </form>
    </Dialog>
  );
}

function PutIn({ told, close }: { told: Schemas["ServiceOut"]; close: () => void }) {
  const begun = { device: "", part: told.parts[0]?.name ?? "", why: "" };
  const { field, v, save, rest, busy } = useDraft(begun, { close });
  const put = save(async () => {
    const body = { ...v, out: false };
    await ok(client.POST("/api/services/{number}/members", { params: { path: { number: told.id } }, body }));
    return t("It is a member of “{{part}}”.", { part: v.part });
  });
  return (
    <Dialog title={t("Put a device into “{{name}}”", { name: told.name })} close={close}>
      <form onSubmit={put}>
        <TextField
          label={t("Device")}
          required
          mono
          {...field("device")}
          hint={t("Its name, number or serial.")}
        />
        <Choice
          label={t("Part")}
          {...field("part")}
          options={told.parts.map((p) => [p.name, p.name] as const)}
        />
        <TextField label={t("Why")} required {...field("why")} hint={t("No rule says it is one.")} />
        {rest}
        <FormFoot close={close} save={t("Put it in")} busy={busy} />
      </form>
    </Dialog>
  );
}
