import { useQuery, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { asks, under } from "../../api/asking";
import { client, ok, type Schemas } from "../../api/client";
import { Dialog } from "../../parts/Dialog";
import { useDraft } from "../../parts/draft";
import { FormFoot, TextField } from "../../parts/Form";
import { agoWords, count, iso } from "../../parts/format";
import { asOrganisation, OrganisationChoice } from "../../parts/Organisation";
import { Problem } from "../../parts/Problem";
import { Copied, Sheet, Withdraw } from "../../parts/Sheet";
import { Table } from "../../parts/table/Table";
import { t } from "../../words";

type Scripts = Schemas["ScriptsOut"];

/** Reporters: enrolments, how many computers report by each, and the scripts of a new one. */
export function Reporters() {
  const queries = useQueryClient();
  const [making, setMaking] = useState(false);
  const held = useQuery(asks("/api/reporters/enrolments"));
  return (
    <Sheet
      id="reporters"
      title={t("Reporters")}
      hint={t("for computers that no sweep reaches")}
      actions={
        <button type="button" className="btn btn-sm" onClick={() => setMaking(true)}>
          {t("New enrolment")}
        </button>
      }
    >
      {held.error && <Problem error={held.error} />}
      {held.data && held.data.length > 0 && (
        <Table
          list="reporters"
          label={t("Reporters")}
          rows={held.data}
          rowKey={(e) => e.id}
          columns={[
            {
              key: "enrolment",
              label: t("Enrolment"),
              of: (e) => e.name,
              cell: (e) => (
                <>
                  {e.name} {e.withdrawn && <span className="tag">{t("withdrawn")}</span>}
                </>
              ),
            },
            {
              key: "computers",
              label: t("Computers"),
              of: (e) => e.reporters,
              cell: (e) => count(e.reporters),
              num: true,
            },
            {
              key: "last_report",
              label: t("Last report"),
              of: (e) => e.last_seen && iso(e.last_seen),
              cell: (e) => (e.last_seen ? agoWords(iso(e.last_seen)) : t("none yet")),
              className: "dim",
            },
            {
              key: "do",
              label: "",
              cell: (e) =>
                !e.withdrawn && (
                  <Withdraw
                    what={t("reporters")}
                    name={e.name}
                    then={t("Computers that report by it are refused from then on.")}
                    call={() =>
                      ok(
                        client.DELETE("/api/reporters/enrolments/{number}", {
                          params: { path: { number: e.id } },
                        }),
                      )
                    }
                  />
                ),
              className: "text-right",
            },
          ]}
        />
      )}
      {held.data?.length === 0 && (
        <p className="dim px-3.5 pb-3 text-[13px]">
          {t("None yet. A reporter is one script: it reads what a sweep would read and sends it here.")}
        </p>
      )}
      {making && (
        <NewEnrolment
          close={() => {
            setMaking(false);
            void queries.invalidateQueries(under("reporters"));
          }}
        />
      )}
    </Sheet>
  );
}

function NewEnrolment({ close }: { close: () => void }) {
  const { v, field, submit, wrong, rest } = useDraft({ name: "", whose: "" });
  const { name, whose } = v;
  const [made, setMade] = useState<Scripts | null>(null);
  const make = submit(async () => {
    setMade(
      await ok(
        client.POST("/api/reporters/enrolments", { body: { name, organisation: asOrganisation(whose) } }),
      ),
    );
  });
  if (!made)
    return (
      <Dialog title={t("New enrolment")} close={close}>
        <form onSubmit={make}>
          <p className="dim mb-3 text-[13px]">
            {t(
              "The scripts carry a token of this enrolment. One for each group of computers lets you withdraw it for them alone.",
            )}
          </p>
          <TextField
            label={t("For which computers")}
            required
            {...field("name")}
            placeholder={t("Crew laptops")}
          />
          <OrganisationChoice label={t("They belong to")} {...field("whose")} wrong={wrong("organisation")} />
          {rest}
          <FormFoot close={close} save={t("Make the scripts")} />
        </form>
      </Dialog>
    );
  return (
    <Dialog title={t("Reporters for “{{name}}”", { name: made.name })} close={close} wide>
      <p className="mb-3 text-[13px]">
        {t(
          "The token is in the scripts and is shown nowhere else: download them now. They read only, send over the address you see Tarn at, and send again what Tarn missed.",
        )}
      </p>
      <Script
        title={t("Linux and other systems with Python 3")}
        file="tarn-reporter.py"
        text={made.posix}
        commands={[
          [t("by hand"), "sudo python3 tarn-reporter.py"],
          [
            "every day",
            "sudo install -m 700 tarn-reporter.py /opt/tarn-reporter.py && echo '17 12 * * * root python3 /opt/tarn-reporter.py' | sudo tee /etc/cron.d/tarn-reporter",
          ],
          ["to many, by SSH", "for h in $(cat hosts); do ssh $h 'sudo python3 -' < tarn-reporter.py; done"],
        ]}
      />
      <Script
        title={t("Windows")}
        file="tarn-reporter.ps1"
        text={made.powershell}
        commands={[
          [
            "by hand or as a startup script",
            "powershell -NoProfile -ExecutionPolicy Bypass -File tarn-reporter.ps1",
          ],
          [
            "every day, as an administrator",
            'New-Item -Force -ItemType Directory C:\\ProgramData\\Tarn; Copy-Item tarn-reporter.ps1 C:\\ProgramData\\Tarn; schtasks /Create /F /RU SYSTEM /SC DAILY /ST 12:17 /TN "Tarn reporter" /TR "powershell -NoProfile -ExecutionPolicy Bypass -File C:\\ProgramData\\Tarn\\tarn-reporter.ps1"',
          ],
        ]}
      />
      <div className="mt-3 flex">
        <span className="flex-1" />
        <button type="button" className="btn btn-primary" onClick={close}>
          {t("Done")}
        </button>
      </div>
    </Dialog>
  );
}

function Script(props: { title: string; file: string; text: string; commands: [string, string][] }) {
  const url = `data:text/plain;charset=utf-8,${encodeURIComponent(props.text)}`;
  return (
    <div className="mb-3 border-t border-base-300 pt-2">
      <div className="flex items-baseline gap-3">
        <h3 className="text-[14px] font-semibold">{props.title}</h3>
        <a href={url} download={props.file} className="link-quiet font-semibold">
          {t("Download {{file}}", { file: props.file })}
        </a>
      </div>
      {props.commands.map(([how, command]) => (
        <Copied key={how} label={how} text={command} />
      ))}
    </div>
  );
}
