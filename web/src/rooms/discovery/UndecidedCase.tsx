import { toast } from "sonner";
import { client, ok } from "../../api/client";
import { asRow, type Undecided } from "../../api/types";
import { moment } from "../../parts/format";
import { sayRefused } from "../../parts/refusal";
import { t } from "../../words";

const FIELDS: [string, string, string][] = [
  ["name", "name", t("Host name")],
  ["serial", "serial", t("Serial number")],
  ["uuid", "uuid", t("Hardware UUID")],
  ["macs", "mac", t("Hardware address")],
  ["model", "model", t("Model")],
  ["os_name", "os.name", t("System")],
];

/** A sighting whose asset is not clear: both sides beside each other, for a person to decide. */
export function UndecidedCase({ one, may, done }: { one: Undecided; may: boolean; done: () => void }) {
  const candidates = one.candidates.map(asRow);
  const rule = async (asset: string | null) => {
    try {
      await ok(client.POST("/api/identity/rulings", { body: { sighting: one.document, asset } }));
      toast.success(
        asset
          ? t("Held to be {{asset}} from now on, and its past is told anew.", { asset })
          : t("Held to be a device of its own."),
      );
      done();
    } catch (error) {
      sayRefused(error, t("Nothing was decided."));
    }
  };
  return (
    <section
      className="sheet mb-3 overflow-x-auto border-l-4 !border-l-secondary"
      aria-label={t("Undecided identity")}
    >
      <div className="px-3.5 py-2.5">
        <b>
          {one.address
            ? t("Is what answers at {{address}} one we know?", { address: one.address })
            : t("Is what {{source}} tells of one we know?", { source: one.source })}
        </b>
        <p className="dim text-[13px]">
          {t("Seen {{at}} by {{source}}: {{reasons}}. Until someone decides, what was read waits.", {
            at: moment(one.at),
            source: one.source,
            reasons: one.reasons.join("; "),
          })}
        </p>
      </div>
      <table className="grid-table">
        <thead>
          <tr>
            <th>
              <span className="sr-only">{t("More")}</span>
            </th>
            <th>{t("What was seen")}</th>
            {candidates.map((c) => (
              <th key={c.id}>{c.number}</th>
            ))}
          </tr>
        </thead>
        <tbody>
          {FIELDS.map(([said, held, label]) => {
            const value = one.says[said];
            const text = Array.isArray(value) ? value.join(" ") : String(value ?? "");
            return (
              <tr key={said}>
                <td className="dim">{label}</td>
                <td className="mono">{text || "–"}</td>
                {candidates.map((c) => {
                  const other = String(c[held] ?? "");
                  const same = other !== "" && text.toLowerCase().includes(other.toLowerCase());
                  return (
                    <td key={c.id} className="mono">
                      {other || "–"}{" "}
                      {other && text && (
                        <span className={`tag ${same ? "ok" : "bad"}`}>
                          {same ? t("agrees") : t("differs")}
                        </span>
                      )}
                    </td>
                  );
                })}
              </tr>
            );
          })}
        </tbody>
      </table>
      {may && (
        <div className="flex flex-wrap gap-2 px-3.5 py-2.5">
          {candidates.map((c) => (
            <button
              key={c.id}
              type="button"
              className="btn btn-sm btn-primary"
              onClick={() => void rule(String(c.number))}
            >
              {t("It is")} {c.name ?? c.number}
            </button>
          ))}
          <button type="button" className="btn btn-sm" onClick={() => void rule(null)}>
            {t("It is another device")}
          </button>
        </div>
      )}
    </section>
  );
}
