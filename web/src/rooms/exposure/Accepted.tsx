import { useQuery } from "@tanstack/react-query";
import { Link } from "@tanstack/react-router";
import { asks } from "../../api/asking";
import { client, ok } from "../../api/client";
import { useDial } from "../../parts/dial";
import { count, shortDay } from "../../parts/format";
import { Grade } from "../../parts/Graded";
import { useMay } from "../../parts/me";
import { Empty, Unanswered } from "../../parts/Problem";
import { useDone } from "../../parts/Sheet";
import { Table } from "../../parts/table/Table";
import { t, word } from "../../words";

const TONES: Record<string, string> = { accepted: "ok", "waits for a second person": "warn" };

/** What is accepted for a while, by whom and why, and what waits for a second person. */
export function Accepted() {
  const asked = useQuery(asks("/api/exposure/accepted"));
  const may = useMay("plan") && !useDial().at;
  const done = useDone();
  if (asked.error || !asked.data)
    return <Unanswered asked={asked} what={t("Looking at what is accepted …")} />;
  if (asked.data.length === 0)
    return (
      <Empty title={t("Nothing is accepted.")}>
        {t(
          "What cannot be ended yet can be accepted on its advisory’s page, or where a change for a rule of our own is proposed: with a reason, and until a day.",
        )}
      </Empty>
    );
  return (
    <div className="sheet overflow-x-auto">
      <Table
        list="accepted"
        label={t("Accepted")}
        rows={asked.data}
        rowKey={(a) => a.id}
        columns={[
          {
            key: "advisory",
            label: t("Advisory or rule"),
            of: (a) => a.advisory,
            cell: (a) =>
              a.own ? (
                <Link to="/exposure" search={{ tab: "own" }} className="link-quiet font-semibold">
                  {a.advisory}
                </Link>
              ) : (
                <Link
                  to="/exposure/advisories/$advisory"
                  params={{ advisory: a.advisory }}
                  search={{}}
                  className="link-quiet mono font-semibold whitespace-nowrap"
                >
                  {a.advisory}
                </Link>
              ),
          },
          {
            key: "grade",
            label: t("Asked for"),
            of: (a) => word(a.grade),
            cell: (a) => <Grade grade={a.grade} />,
          },
          { key: "on", label: t("On"), of: (a) => a.filter || t("all that are open to it"), mono: true },
          {
            key: "devices",
            label: t("Devices now"),
            of: (a) => a.devices,
            cell: (a) => count(a.devices),
            num: true,
          },
          { key: "reason", label: t("Why"), of: (a) => a.reason, className: "max-w-sm" },
          {
            key: "by",
            label: t("By"),
            of: (a) => [a.made_by, a.approved_by].filter(Boolean).join(", "),
            className: "whitespace-nowrap",
          },
          {
            key: "until",
            label: t("Until"),
            of: (a) => a.until.slice(0, 10),
            cell: (a) => shortDay(a.until),
            className: "whitespace-nowrap",
          },
          {
            key: "state",
            label: t("Stands"),
            of: (a) => word(a.state),
            cell: (a) => (
              <span className={`tag ${TONES[a.state] ?? ""} whitespace-nowrap`}>{word(a.state)}</span>
            ),
          },
          {
            key: "do",
            label: "",
            cell: (a) =>
              may && (
                <span className="flex justify-end gap-3 whitespace-nowrap">
                  {a.state === "waits for a second person" && (
                    <button
                      type="button"
                      className="link-quiet font-semibold"
                      onClick={() =>
                        void done(
                          () =>
                            ok(
                              client.POST("/api/exposure/accepted/{number}/approval", {
                                params: { path: { number: a.id } },
                              }),
                            ),
                          t("It counts from now on."),
                        )
                      }
                    >
                      {t("Approve")}
                    </button>
                  )}
                  {(a.state === "accepted" || a.state === "waits for a second person") && (
                    <button
                      type="button"
                      className="link-quiet font-semibold"
                      onClick={() =>
                        void done(
                          () =>
                            ok(
                              client.DELETE("/api/exposure/accepted/{number}", {
                                params: { path: { number: a.id } },
                              }),
                            ),
                          t("It is open again."),
                        )
                      }
                    >
                      {t("Take back")}
                    </button>
                  )}
                </span>
              ),
          },
        ]}
      />
    </div>
  );
}
