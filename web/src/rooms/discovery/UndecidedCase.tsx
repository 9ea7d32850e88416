import { toast } from "sonner";
import { client, ok } from "../../api/client";
import { asRow, type Undecided } from "../../api/types";
import { moment } from "../../parts/format";
import { sayRefused } from "../../parts/refusal";

const FIELDS: [string, string, string][] = [
  ["name", "name", "Host name"],
  ["serial", "serial", "Serial number"],
  ["uuid", "uuid", "Hardware UUID"],
  ["macs", "mac", "Hardware address"],
  ["model", "model", "Model"],
  ["os_name", "os.name", "System"],
];

/** A sighting whose asset is not clear: both sides beside each other, for a person to decide. */
export function UndecidedCase({ one, may, done }: { one: Undecided; may: boolean; done: () => void }) {
  const candidates = one.candidates.map(asRow);
  const rule = async (asset: string | null) => {
    try {
      await ok(client.POST("/api/identity/rulings", { body: { sighting: one.document, asset } }));
      toast.success(
        asset
          ? `Held to be ${asset} from now on, and its past is told anew.`
          : "Held to be a device of its own.",
      );
      done();
    } catch (error) {
      sayRefused(error, "Nothing was decided.");
    }
  };
  return (
    <section
      className="sheet mb-3 overflow-x-auto border-l-4 !border-l-secondary"
      aria-label="Undecided identity"
    >
      <div className="px-3.5 py-2.5">
        <b>
          {one.address
            ? `Is what answers at ${one.address} one we know?`
            : `Is what ${one.source} tells of one we know?`}
        </b>
        <p className="dim text-[13px]">
          Seen {moment(one.at)} by {one.source}: {one.reasons.join("; ")}. Until someone decides, what was
          read waits.
        </p>
      </div>
      <table className="grid-table">
        <thead>
          <tr>
            <th>
              <span className="sr-only">More</span>
            </th>
            <th>What was seen</th>
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
                        <span className={`tag ${same ? "ok" : "bad"}`}>{same ? "agrees" : "differs"}</span>
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
              It is {c.name ?? c.number}
            </button>
          ))}
          <button type="button" className="btn btn-sm" onClick={() => void rule(null)}>
            It is another device
          </button>
        </div>
      )}
    </section>
  );
}
