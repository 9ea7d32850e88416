import { useQuery } from "@tanstack/react-query";
import { Link } from "@tanstack/react-router";
import { useState } from "react";
import { asks } from "../../api/asking";
import { client, ok, type Schemas } from "../../api/client";
import { StepDialog } from "../../parts/acts/StepDialog";
import { DeviceLink } from "../../parts/DeviceLink";
import { Dialog } from "../../parts/Dialog";
import { count, day, plural, shortDay } from "../../parts/format";
import { useMay } from "../../parts/me";
import { Empty, Unanswered } from "../../parts/Problem";
import { sayRefused } from "../../parts/refusal";
import { Copied } from "../../parts/Sheet";
import { Table } from "../../parts/table/Table";
import { t } from "../../words";

type Row = Schemas["HandOverOut"];

const WHICH: [string, string, (r: Row) => boolean][] = [
  ["all", t("All"), () => true],
  ["overdue", t("Overdue"), (r) => r.overdue > 0],
  ["left", t("Holder has left"), (r) => r.left],
  ["open", t("Not acknowledged"), (r) => !r.acknowledged_at],
  ["lent", t("Lent"), (r) => r.lent],
];

/** What is in somebody's hands: overdue first, then what leavers hold; taken back here, alone or several at once. */
export function HandOvers({ at }: { at: string | undefined }) {
  const may = useMay("decide") && !at;
  const [which, setWhich] = useState("all");
  const [link, setLink] = useState("");
  const [back, setBack] = useState<Row[]>([]);
  const asked = useQuery(asks("/api/lifecycle/hand-overs", { params: { query: { as_of: at } } }));
  if (asked.error || !asked.data) return <Unanswered asked={asked} what={t("Reading hand-overs …")} />;
  if (!asked.data.length)
    return (
      <Empty title={t("Nothing is handed over.")}>
        {t(
          "Take the step “hand over” or “lend” with an asset, from its dossier or from a selection in Estate. Whoever receives it acknowledges it through a link.",
        )}
      </Empty>
    );
  const test = WHICH.find(([key]) => key === which)?.[2] ?? (() => true);
  const rows = asked.data.filter(test);
  const ask = async (row: Row) => {
    try {
      const made = await ok(
        client.POST("/api/lifecycle/hand-overs/{number}/acknowledgement", {
          params: { path: { number: row.id } },
        }),
      );
      setLink(`${window.location.origin}${made.path}`);
    } catch (error) {
      sayRefused(error, t("No link could be made."));
    }
  };
  return (
    <>
      <div className="flex flex-wrap items-center gap-1.5 pb-2.5">
        {WHICH.map(([key, label, holds]) => (
          <button
            key={key}
            type="button"
            aria-pressed={which === key}
            className={`btn btn-sm ${which === key ? "btn-primary" : ""}`}
            onClick={() => setWhich(key)}
          >
            {label} <span className="tabular-nums">{count(asked.data.filter(holds).length)}</span>
          </button>
        ))}
      </div>
      <div className="sheet overflow-x-auto">
        <Table
          list="hand-overs"
          label={t("Hand-overs")}
          rows={rows}
          rowKey={(r) => r.id}
          acts={
            may
              ? (ticked) => (
                  <button type="button" className="btn btn-primary btn-sm" onClick={() => setBack(ticked)}>
                    {t("Take back {{ticked}}", { ticked: ticked.length })}
                  </button>
                )
              : undefined
          }
          columns={[
            {
              key: "device",
              label: t("Device"),
              of: (r) => r.name ?? r.number,
              cell: (r) => (
                <>
                  <DeviceLink asset={r.asset} at={at} className="link-quiet mono font-semibold">
                    {r.name ?? r.number}
                  </DeviceLink>{" "}
                  <span className="dim">{[r.kind, r.model].filter(Boolean).join(" · ")}</span>
                </>
              ),
            },
            {
              key: "in_the_hands_of",
              label: t("In the hands of"),
              of: (r) => r.person || [r.department, r.place].filter(Boolean).join(", "),
              cell: (r) => (
                <>
                  {r.person ? (
                    <Link
                      to="/people/$person"
                      params={{ person: r.person }}
                      search={{ at }}
                      className="link-quiet font-semibold"
                    >
                      {r.person}
                    </Link>
                  ) : (
                    [r.department, r.place].filter(Boolean).join(", ")
                  )}
                  {r.left && <span className="tag warn ml-2">{t("has left")}</span>}
                </>
              ),
            },
            {
              key: "given",
              label: t("Given"),
              of: (r) => r.given_at,
              cell: (r) => (
                <>
                  {shortDay(r.given_at)}, {r.given_by}
                </>
              ),
              className: "dim whitespace-nowrap",
            },
            {
              key: "due_back",
              label: t("Due back"),
              of: (r) => r.due,
              cell: (r) => (
                <>
                  {r.due ? day(r.due) : r.lent ? "" : <span className="faint">{t("for good")}</span>}
                  {r.overdue > 0 && (
                    <span className="tag bad ml-2">
                      {t("{{days}} overdue", { days: plural(r.overdue, "day") })}
                    </span>
                  )}
                </>
              ),
              className: "whitespace-nowrap",
            },
            {
              key: "acknowledged",
              label: t("Acknowledged"),
              of: (r) => r.acknowledged_at,
              cell: (r) =>
                r.acknowledged_at ? (
                  <span className="dim">
                    {r.acknowledged_by}, {shortDay(r.acknowledged_at)}
                  </span>
                ) : may ? (
                  <button
                    type="button"
                    className="link-quiet font-semibold"
                    aria-label={t("Make a link for {{name}}", { name: r.name ?? r.number })}
                    onClick={() => void ask(r)}
                  >
                    {t("Make a link")}
                  </button>
                ) : (
                  <span className="faint">{t("not yet")}</span>
                ),
            },
            {
              key: "do",
              label: "",
              cell: (r) =>
                may && (
                  <button
                    type="button"
                    className="btn btn-sm"
                    aria-label={t("Take back {{name}}", { name: r.name ?? r.number })}
                    onClick={() => setBack([r])}
                  >
                    {t("Take back")}
                  </button>
                ),
              num: true,
            },
          ]}
        />
        {!rows.length && <p className="dim p-3 text-[13px]">{t("None.")}</p>}
      </div>
      {link && (
        <Dialog title={t("To be acknowledged")} close={() => setLink("")}>
          <p className="dim pb-2 text-[13px]">
            {t("Give this link to whoever received it; the one before no longer opens anything.")}
          </p>
          <Copied label={t("Link")} text={link} />
        </Dialog>
      )}
      {back.length > 0 && (
        <StepDialog
          assets={back.map((r) => r.asset)}
          total={back.length}
          named={
            back.length === 1 ? (back[0]?.name ?? back[0]?.number ?? t("it")) : plural(back.length, "device")
          }
          first={t("take back")}
          close={() => setBack([])}
        />
      )}
    </>
  );
}
