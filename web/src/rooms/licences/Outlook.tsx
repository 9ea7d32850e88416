import { useQuery } from "@tanstack/react-query";
import { Link } from "@tanstack/react-router";
import { useState } from "react";
import { client, ok, type Schemas } from "../../api/client";
import { TextField } from "../../parts/Form";
import { amount, capital, count, day, plural } from "../../parts/format";
import { Problem, Waiting } from "../../parts/Problem";
import { Heads, Sheet } from "../../parts/Sheet";

/** What licences will cost within a year, and what it takes if people are hired. */
export function Outlook({ at }: { at: string | undefined }) {
  const asked = useQuery({
    queryKey: ["licences", "next year", at],
    queryFn: () => ok(client.GET("/api/licences/next-year", { params: { query: { as_of: at } } })),
  });
  if (asked.error)
    return (
      <div className="p-4">
        <Problem error={asked.error} />
      </div>
    );
  if (!asked.data) return <Waiting what="Looking ahead …" />;
  const y = asked.data;
  return (
    <div className="grid items-start gap-3 px-4 py-3 lg:grid-cols-[3fr_2fr]">
      <Sheet
        id="next-year"
        className=""
        title={`Until ${day(y.until)}`}
        hint={`${amount(y.total)} ${y.currency}: ${Object.entries(y.sums)
          .map(([sort, sum]) => `${sort}s ${amount(sum)}`)
          .join(", ")}`}
      >
        {y.apart.map((a) => (
          <p key={a} className="tag warn mx-3.5 mb-2">
            {a}
          </p>
        ))}
        <table className="grid-table">
          <Heads
            names={["Day", "What", "For", `Amount, ${y.currency}`]}
            numbers={[`Amount, ${y.currency}`]}
          />
          <tbody>
            {y.lines.map((line) => (
              <tr key={`${line.day}${line.name}${line.sort}`}>
                <td className="whitespace-nowrap">{day(line.day)}</td>
                <td>
                  <span
                    className={`tag ${line.sort === "true-up" ? "bad" : line.sort === "renewal" ? "note" : ""}`}
                  >
                    {capital(line.sort)}
                  </span>
                </td>
                <td>
                  {line.licence ? (
                    <Link
                      to="/licences/$licence"
                      params={{ licence: String(line.licence) }}
                      search={{ at }}
                      className="link-quiet font-semibold"
                    >
                      {line.name}
                    </Link>
                  ) : (
                    line.name
                  )}
                </td>
                <td className="num mono">{amount(line.amount)}</td>
              </tr>
            ))}
          </tbody>
        </table>
        {!y.lines.length && <p className="dim px-3.5 pb-3 text-[13px]">Nothing is to be paid.</p>}
      </Sheet>
      <Hiring at={at} />
    </div>
  );
}

function Hiring({ at }: { at: string | undefined }) {
  const [v, setValues] = useState({ department: "", number: "12" });
  const [asked, setAsked] = useState<typeof v | null>(null);
  const known = useQuery({
    queryKey: ["complete", "department"],
    queryFn: () => ok(client.GET("/api/strata", { params: { query: { filter: "", bands: "department" } } })),
  });
  const told = useQuery({
    queryKey: ["licences", "hired", asked, at],
    queryFn: () =>
      ok(
        client.GET("/api/licences/hired", {
          params: {
            query: { department: asked?.department ?? "", number: Number(asked?.number), as_of: at },
          },
        }),
      ),
    enabled: asked !== null,
    retry: false,
  });
  return (
    <Sheet id="hiring" className="" title="If a department hires">
      <form
        className="grid items-end gap-x-3 px-3.5 sm:grid-cols-[1fr_90px_auto]"
        onSubmit={(e) => {
          e.preventDefault();
          setAsked(v);
        }}
      >
        <TextField
          label="Department"
          value={v.department}
          set={(department) => setValues({ ...v, department })}
          list={(known.data?.[0]?.parts ?? []).map((p) => p.label)}
          required
        />
        <TextField
          label="People"
          type="number"
          value={v.number}
          set={(number) => setValues({ ...v, number })}
          required
        />
        <button type="submit" className="btn btn-primary mb-3">
          Reckon
        </button>
      </form>
      {told.error ? (
        <div className="px-3.5 pb-3">
          <Problem error={told.error} />
        </div>
      ) : null}
      {told.data && <Hired h={told.data} />}
      {!asked && (
        <p className="dim px-3.5 pb-3 text-[13px]">
          Each newcomer has a device with what most of the department's people have; the whole position is
          reckoned with them.
        </p>
      )}
    </Sheet>
  );
}

function Hired({ h }: { h: Schemas["HiredOut"] }) {
  return (
    <>
      <p className="px-3.5 pb-2 text-[13px]">
        {plural(h.number, "newcomer")} in {h.department} with {h.products.join(", ") || "nothing licensed"}:{" "}
        <b className="font-semibold tabular-nums">{amount(h.cost)}</b> {h.currency} more to buy.
      </p>
      {h.balances.length > 0 && (
        <table className="grid-table">
          <Heads
            names={["Product", "Needed more", "Then short more", `Cost, ${h.currency}`]}
            numbers={["Needed more", "Then short more", `Cost, ${h.currency}`]}
          />
          <tbody>
            {h.balances.map((b) => (
              <tr key={b.name}>
                <td>{b.name}</td>
                <td className="num mono">
                  {count(b.more)} {b.unit}
                </td>
                <td className="num mono">{b.short ? count(b.short) : ""}</td>
                <td className="num mono">{b.cost ? amount(b.cost) : b.short ? "no price" : ""}</td>
              </tr>
            ))}
          </tbody>
        </table>
      )}
    </>
  );
}
