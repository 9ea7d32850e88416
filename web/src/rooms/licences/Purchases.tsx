import { useQuery } from "@tanstack/react-query";
import { Link } from "@tanstack/react-router";
import { client, ok } from "../../api/client";
import { amount, count, day } from "../../parts/format";
import { Empty, Problem, Waiting } from "../../parts/Problem";
import { Heads } from "../../parts/Sheet";

/** Every purchase of licences, the latest first. */
export function Purchases({ at }: { at: string | undefined }) {
  const asked = useQuery({
    queryKey: ["licences", "purchases", at],
    queryFn: () => ok(client.GET("/api/licences/purchases", { params: { query: { as_of: at } } })),
  });
  if (asked.error)
    return (
      <div className="p-4">
        <Problem error={asked.error} />
      </div>
    );
  if (!asked.data) return <Waiting what="Reading purchases …" />;
  if (!asked.data.length)
    return <Empty title="Nothing is bought yet.">Purchases are entered on a licence's page.</Empty>;
  return (
    <div className="overflow-x-auto bg-base-100">
      <table className="grid-table">
        <Heads
          names={["Day", "Licence", "Units", "Each", "In all", "Order", "Supplier"]}
          numbers={["Units", "Each", "In all"]}
        />
        <tbody>
          {asked.data.map((p) => (
            <tr key={p.id} className={p.counts ? undefined : "dim"}>
              <td className="whitespace-nowrap">
                {day(p.day)}
                {!p.counts && <span className="tag ml-2">does not count yet</span>}
              </td>
              <td>
                <Link
                  to="/licences/$licence"
                  params={{ licence: String(p.licence) }}
                  search={{ at }}
                  className="link-quiet font-semibold"
                >
                  {p.name}
                </Link>
              </td>
              <td className="num mono">{count(p.quantity)}</td>
              <td className="num mono whitespace-nowrap">
                {amount(p.price)} {p.currency}
              </td>
              <td className="num mono">{p.total ? amount(p.total) : "no rate"}</td>
              <td className="mono">{p.order}</td>
              <td className="dim">{p.supplier}</td>
            </tr>
          ))}
        </tbody>
      </table>
    </div>
  );
}
