import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { asks } from "../../api/asking";
import { client, ok } from "../../api/client";
import { Dialog } from "../../parts/Dialog";
import { useDraft } from "../../parts/draft";
import { FormFoot, TextField } from "../../parts/Form";
import { shortDay } from "../../parts/format";
import { useMay } from "../../parts/me";
import { Empty, Unanswered } from "../../parts/Problem";
import { useDone } from "../../parts/Sheet";
import { Table } from "../../parts/table/Table";
import { t } from "../../words";

/** Talk that is left out of what stands on what: by process, by port, or both, and why. */
export function Noise() {
  const [saying, setSaying] = useState(false);
  const asked = useQuery(asks("/api/services/noise"));
  const may = useMay("plan");
  const done = useDone();
  const again = (number: number) =>
    void done(
      () => ok(client.DELETE("/api/services/noise/{number}", { params: { path: { number } } })),
      t("It counts again."),
    );
  if (asked.error || !asked.data) return <Unanswered asked={asked} what={t("Looking up what is noise …")} />;
  return (
    <>
      <div className="flex flex-wrap items-center gap-3 py-2.5">
        <p className="dim max-w-3xl text-[13.5px]">
          {t(
            "Whoever talks to a device stands on it, unless the talk is of this sort. What is said here holds for the past as well.",
          )}
        </p>
        <span className="flex-1" />
        {may && (
          <button type="button" className="btn btn-sm btn-primary" onClick={() => setSaying(true)}>
            {t("Say what is noise")}
          </button>
        )}
      </div>
      {asked.data.length === 0 ? (
        <Empty title={t("Nothing is noise.")}>
          {t("Whoever talks to a device stands on it, whatever the talk.")}
        </Empty>
      ) : (
        <div className="sheet overflow-x-auto">
          <Table
            list="noise"
            label={t("Talk that is noise")}
            rows={asked.data}
            rowKey={(r) => r.id}
            columns={[
              {
                key: "process",
                label: t("Process"),
                of: (r) => r.process,
                cell: (r) =>
                  r.process ? <b className="mono">{r.process}</b> : <span className="dim">{t("any")}</span>,
              },
              {
                key: "port",
                label: t("Port"),
                of: (r) => r.port ?? 0,
                cell: (r) => (r.port === null ? <span className="dim">{t("any")}</span> : r.port),
                num: true,
              },
              { key: "why", label: t("Why"), of: (r) => r.why },
              {
                key: "by",
                label: t("Said by"),
                of: (r) => r.made_by,
                cell: (r) => (r.made_by ? `${r.made_by}, ${shortDay(r.made_at)}` : t("comes with Tarn")),
              },
              {
                key: "do",
                label: "",
                cell: (r) =>
                  may && (
                    <button
                      type="button"
                      className="link-quiet font-semibold whitespace-nowrap"
                      onClick={() => again(r.id)}
                    >
                      {t("Have it count again")}
                    </button>
                  ),
              },
            ]}
          />
        </div>
      )}
      {saying && <SayNoise close={() => setSaying(false)} />}
    </>
  );
}

function SayNoise({ close }: { close: () => void }) {
  const { v, field, save, rest, busy } = useDraft({ process: "", port: "", why: "" }, { close });
  const say = save(async () => {
    const port = v.port.trim() === "" ? null : Number(v.port);
    await ok(client.POST("/api/services/noise", { body: { ...v, port } }));
    return t("It is noise, and left out.");
  });
  return (
    <Dialog title={t("Say what is noise")} close={close}>
      <form onSubmit={say}>
        <TextField
          label={t("Process")}
          hint={t("As its device names it; empty for any.")}
          {...field("process")}
        />
        <TextField label={t("Port")} hint={t("1 to 65,535; empty for any.")} {...field("port")} />
        <TextField
          label={t("Why")}
          required
          {...field("why")}
          hint={t("Why it says nothing of what stands on what.")}
        />
        {rest}
        <FormFoot close={close} save={t("Leave it out")} busy={busy} />
      </form>
    </Dialog>
  );
}
