import { useQuery } from "@tanstack/react-query";
import { Link } from "@tanstack/react-router";
import { asks } from "../../api/asking";
import { client, ok } from "../../api/client";
import { useDial } from "../../parts/dial";
import { shortDay } from "../../parts/format";
import { useMay } from "../../parts/me";
import { useDone } from "../../parts/Sheet";
import { Table } from "../../parts/table/Table";
import { t } from "../../words";

/** What was given to be done: to whom, by when, and how far it is by readings. */
export function Given() {
  const asked = useQuery(asks("/api/exposure/work"));
  const may = useMay("decide") && !useDial().at;
  const done = useDone();
  if (!asked.data?.length) return null;
  return (
    <section className="sheet mt-3 overflow-x-auto" aria-label={t("Given to be done")}>
      <h2 className="px-4 pt-3 text-[14px] font-semibold">{t("Given to be done")}</h2>
      <Table
        list="given-work"
        label={t("Given to be done")}
        rows={asked.data}
        rowKey={(w) => w.id}
        columns={[
          { key: "what", label: t("What"), of: (w) => w.what, className: "max-w-md" },
          {
            key: "to",
            label: t("To"),
            of: (w) => w.person || t("ticket {{reference}}", { reference: w.reference }),
            className: "whitespace-nowrap",
          },
          {
            key: "day",
            label: t("By"),
            of: (w) => w.day,
            cell: (w) =>
              w.day && (
                <>
                  {shortDay(w.day)} {w.late && <span className="tag bad">{t("late")}</span>}
                </>
              ),
            className: "whitespace-nowrap",
          },
          {
            key: "open",
            label: t("Still open"),
            of: (w) => w.open,
            cell: (w) =>
              w.wrong ? (
                <span className="text-error">{w.wrong}</span>
              ) : w.open === 0 ? (
                <span className="tag ok">{t("done on all {{devices}}", { devices: w.devices })}</span>
              ) : (
                <Link to="/estate" search={{ q: w.filter }} className="link-quiet">
                  {t("{{open}} of {{devices}}", { open: w.open, devices: w.devices })}
                </Link>
              ),
            className: "whitespace-nowrap",
          },
          { key: "by", label: t("Given by"), of: (w) => w.made_by },
          {
            key: "do",
            label: "",
            cell: (w) =>
              may && (
                <button
                  type="button"
                  className="link-quiet font-semibold whitespace-nowrap"
                  onClick={() =>
                    void done(
                      () =>
                        ok(
                          client.DELETE("/api/exposure/work/{number}", {
                            params: { path: { number: w.id } },
                          }),
                        ),
                      t("It is taken back."),
                    )
                  }
                >
                  {t("Take back")}
                </button>
              ),
          },
        ]}
      />
    </section>
  );
}
