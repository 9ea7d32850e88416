import { useQuery } from "@tanstack/react-query";
import { Link } from "@tanstack/react-router";
import { client, ok } from "../../api/client";
import { capital, count, day, plural } from "../../parts/format";
import { Problem, Waiting } from "../../parts/Problem";
import { Heads, Sheet } from "../../parts/Sheet";

/** What lies in stock, model by model, and what is still to come. */
export function Stock({ at }: { at: string | undefined }) {
  const asked = useQuery({
    queryKey: ["lifecycle", "stock", at],
    queryFn: () => ok(client.GET("/api/lifecycle/stock", { params: { query: { as_of: at } } })),
  });
  if (asked.error) return <Problem error={asked.error} />;
  if (!asked.data) return <Waiting what="Looking into the stock …" />;
  const { lying, coming, total } = asked.data;
  return (
    <div className="grid items-start gap-3 lg:grid-cols-[3fr_2fr]">
      <Sheet id="stock" className="" title="In stock" hint={plural(total, "device")}>
        {lying.length > 0 ? (
          <table className="grid-table">
            <Heads
              names={["What", "Place", "In stock", "With a price", "First warranty ends"]}
              numbers={["In stock", "With a price"]}
            />
            <tbody>
              {lying.map((g) => (
                <tr key={g.filter}>
                  <td>
                    <Link to="/estate" search={{ at, q: g.filter }} className="link-quiet font-semibold">
                      {capital(g.kind || "device")}
                    </Link>{" "}
                    <span className="dim">
                      {g.manufacturer} {g.model}
                    </span>
                  </td>
                  <td className="dim">{g.place}</td>
                  <td className="num mono">{count(g.number)}</td>
                  <td className="num mono">{count(g.bought)}</td>
                  <td className="dim whitespace-nowrap">{g.warranty ? day(g.warranty) : ""}</td>
                </tr>
              ))}
            </tbody>
          </table>
        ) : (
          <p className="dim px-3.5 pb-3 text-[13px]">
            Nothing is in stock. What is received of an order, or taken back, comes here.
          </p>
        )}
      </Sheet>
      <Sheet id="coming" className="" title="Still to come" hint={plural(coming.length, "line")}>
        {coming.length > 0 ? (
          <table className="grid-table">
            <Heads names={["What", "To come", "Expected", "Order"]} numbers={["To come"]} />
            <tbody>
              {coming.map((c) => (
                <tr key={`${c.order}${c.kind}${c.model}`}>
                  <td>
                    {capital(c.kind)}{" "}
                    <span className="dim">
                      {c.manufacturer} {c.model}
                    </span>
                  </td>
                  <td className="num mono">{count(c.number)}</td>
                  <td className="whitespace-nowrap">
                    {c.expected ? day(c.expected) : <span className="faint">not said</span>}
                    {c.late && <span className="tag warn ml-2">late</span>}
                  </td>
                  <td className="mono whitespace-nowrap">{c.order}</td>
                </tr>
              ))}
            </tbody>
          </table>
        ) : (
          <p className="dim px-3.5 pb-3 text-[13px]">Every order has come in full.</p>
        )}
      </Sheet>
    </div>
  );
}
