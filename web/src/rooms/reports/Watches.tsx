import { useQuery, useQueryClient } from "@tanstack/react-query";
import { Link } from "@tanstack/react-router";
import { useState } from "react";
import { toast } from "sonner";
import { asks, under } from "../../api/asking";
import { client, ok, type Schemas } from "../../api/client";
import { iso, moment, plural } from "../../parts/format";
import { useMay } from "../../parts/me";
import { Empty, Unanswered } from "../../parts/Problem";
import { sayRefused } from "../../parts/refusal";
import { Sheet } from "../../parts/Sheet";
import { Table } from "../../parts/table/Table";
import { t } from "../../words";
import { WatchForm } from "./WatchForm";

type Watch = Schemas["WatchOut"];

const at = (seconds: number | null | undefined) => (seconds ? moment(iso(seconds)) : "");

/** The watches, when each asks next, and what they wrote. */
export function Watches() {
  const [making, setMaking] = useState<Watch | "new" | null>(null);
  const may = useMay("keep");
  const queries = useQueryClient();
  const asked = useQuery({
    ...asks("/api/watches"),
    refetchInterval: 20_000,
  });
  if (asked.error || !asked.data) return <Unanswered asked={asked} what={t("Reading the watches …")} />;
  const tryOut = async (watch: Watch) => {
    try {
      const letter = await ok(
        client.POST("/api/watches/{number}/try", { params: { path: { number: watch.id } } }),
      );
      if (letter.sent_at)
        toast.success(
          t("Sent to {{to}}: “{{subject}}”.", { to: letter.to.join(", "), subject: letter.subject }),
        );
      else toast.error(t("It was written and could not be sent: {{trouble}}", { trouble: letter.trouble }));
      await queries.invalidateQueries(under("watches"));
      await queries.invalidateQueries(under("mailbox"));
    } catch (error) {
      sayRefused(error, t("It could not be tried."));
    }
  };
  const acknowledge = async (letter: number) => {
    try {
      await ok(client.POST("/api/letters/{number}/acknowledge", { params: { path: { number: letter } } }));
      await queries.invalidateQueries(under("watches"));
    } catch (error) {
      sayRefused(error, t("It was not acknowledged."));
    }
  };
  return (
    <>
      <div className="flex pb-2.5">
        <span className="flex-1" />
        {may && (
          <button type="button" className="btn btn-primary btn-sm" onClick={() => setMaking("new")}>
            {t("New watch")}
          </button>
        )}
      </div>
      {asked.data.length === 0 && (
        <Empty title={t("Nothing is watched yet.")}>
          {t("A watch asks a report on a schedule and writes when there is something to say.")}
        </Empty>
      )}
      {asked.data.map((w) => (
        <Sheet
          key={w.id}
          id={`watch-${w.id}`}
          className="mb-3"
          title={w.name}
          hint={
            w.on
              ? t("{{said}}, next {{next_at}}", { said: w.said, next_at: at(w.next_at) })
              : t("not in force")
          }
          actions={
            may && (
              <>
                <button type="button" className="btn btn-sm" onClick={() => void tryOut(w)}>
                  {t("Send it to me")}
                </button>
                <button type="button" className="btn btn-sm" onClick={() => setMaking(w)}>
                  {t("Change")}
                </button>
              </>
            )
          }
        >
          <p className="px-3.5 pb-2 text-[13px]">
            {t("Asks")}{" "}
            <Link
              to="/reports/$report"
              params={{ report: w.report }}
              search={{}}
              className="link-quiet font-semibold"
            >
              {w.report_name}
            </Link>{" "}
            {t("({{rows}} {{which}}) and writes to", {
              rows: plural(w.rows, "row"),
              which: w.asked_at ? t("at {{asked_at}}", { asked_at: at(w.asked_at) }) : t("so far"),
            })}{" "}
            <span className="mono">{w.to.join(", ")}</span>{" "}
            {t("when {{writes_when}}", { writes_when: w.writes_when })}
            {w.condition === "share" && w.share !== null && t(" (now {{share}} %)", { share: w.share })}
            {w.gathered && t(", once a day with others’ letters")}
            {w.insists && t(", and again until somebody acknowledges it")}
            {w.attach && t(", with the rows as {{toUpperCase}}", { toUpperCase: w.attach.toUpperCase() })}
            {w.quiet && t("; quiet from {{quiet}} o’clock", { quiet: w.quiet.replace("-", " to ") })}.
          </p>
          {w.trouble && (
            <p className="px-3.5 pb-2 text-[13px] font-semibold text-error" role="alert">
              {t("{{trouble}} It goes on being asked.", { trouble: w.trouble })}
            </p>
          )}
          {w.letters.length > 0 && (
            <Table
              list="watches"
              label={t("Letters of {{name}}", { name: w.name })}
              rows={w.letters}
              rowKey={(l) => l.id}
              columns={[
                {
                  key: "written",
                  label: t("Written"),
                  of: (l) => l.made_at && iso(l.made_at),
                  cell: (l) => at(l.made_at),
                  className: "w-[150px] whitespace-nowrap",
                },
                { key: "letter", label: t("Letter"), of: (l) => l.subject },
                {
                  key: "to",
                  label: t("To"),
                  of: (l) => l.to.join(", "),
                  className: "dim",
                },
                {
                  key: "sent",
                  label: t("Sent"),
                  of: (l) => l.sent_at && iso(l.sent_at),
                  cell: (l) =>
                    l.sent_at ? (
                      <>
                        {at(l.sent_at)}
                        {l.acknowledged_by ? (
                          <span className="dim">
                            {" "}
                            {t("· acknowledged by {{acknowledged_by}}", {
                              acknowledged_by: l.acknowledged_by,
                            })}
                          </span>
                        ) : (
                          w.insists && (
                            <button
                              type="button"
                              className="link-quiet ml-2 font-semibold"
                              onClick={() => void acknowledge(l.id)}
                            >
                              {t("Acknowledge")}
                            </button>
                          )
                        )}
                      </>
                    ) : l.tries ? (
                      <span className="text-error" title={l.trouble}>
                        {t("not yet, {{tries}}: {{trouble}}", {
                          tries: plural(l.tries, "try", "tries"),
                          trouble: l.trouble,
                        })}
                      </span>
                    ) : (
                      <span className="dim">{t("waits until {{due_at}}", { due_at: at(l.due_at) })}</span>
                    ),
                },
              ]}
            />
          )}
        </Sheet>
      ))}
      {making && (
        <WatchForm held={making === "new" ? null : making} report="" name="" close={() => setMaking(null)} />
      )}
    </>
  );
}
