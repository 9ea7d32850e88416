import { useQuery } from "@tanstack/react-query";
import { Link } from "@tanstack/react-router";
import { client, ok, type Schemas } from "../../api/client";
import { amount, count, day, plural } from "../../parts/format";
import { Empty, Problem, Waiting } from "../../parts/Problem";
import { Heads } from "../../parts/Sheet";

/** When a licence's term is over, in words. */
export function Term({ l }: { l: Schemas["LicenceRow"] }) {
  if (!l.ends) return <>perpetual{l.starts ? `, since ${day(l.starts)}` : ""}</>;
  return (
    <>
      {l.in_force ? "until " : "over since "}
      {day(l.ends)}
      {!l.in_force && <span className="tag bad ml-2">over</span>}
    </>
  );
}

/** Every licence, with how much of it is owned and drawn on. */
export function Owned({ at }: { at: string | undefined }) {
  const asked = useQuery({
    queryKey: ["licences", "owned", at],
    queryFn: () => ok(client.GET("/api/licences", { params: { query: { as_of: at } } })),
  });
  if (asked.error)
    return (
      <div className="p-4">
        <Problem error={asked.error} />
      </div>
    );
  if (!asked.data) return <Waiting what="Reading licences …" />;
  if (!asked.data.length)
    return (
      <Empty title="No licence is entered yet.">
        Enter one with “Enter a licence”, then add what was bought of it.
      </Empty>
    );
  return (
    <div className="overflow-x-auto bg-base-100">
      <table className="grid-table">
        <Heads
          names={["Licence", "Covers", "Counted by", "Owned", "Drawn on", "A unit", "Term", "Maintenance"]}
          numbers={["Owned", "Drawn on", "A unit"]}
        />
        <tbody>
          {asked.data.map((l) => (
            <tr key={l.id}>
              <td>
                <Link
                  to="/licences/$licence"
                  params={{ licence: String(l.id) }}
                  search={{ at }}
                  className="link-quiet font-semibold"
                >
                  {l.name}
                </Link>
                {l.publisher && <span className="faint block text-[12px]">{l.publisher}</span>}
              </td>
              <td className="dim">
                {l.products.length < 4 ? l.products.join(", ") : plural(l.products.length, "product")}
                {l.unknown.length > 0 && (
                  <span className="tag warn ml-2">{plural(l.unknown.length, "unknown product")}</span>
                )}
              </td>
              <td className="dim whitespace-nowrap">{l.metric}</td>
              <td className="num mono">
                {l.quantity === null || l.quantity === undefined ? "∞" : count(l.quantity)}
              </td>
              <td className="num mono">{count(l.used)}</td>
              <td className="num mono">{l.price ? amount(l.price) : ""}</td>
              <td className="whitespace-nowrap">
                <Term l={l} />
              </td>
              <td className="dim whitespace-nowrap">
                {l.maintained_until ? `until ${day(l.maintained_until)}` : ""}
              </td>
            </tr>
          ))}
        </tbody>
      </table>
    </div>
  );
}
