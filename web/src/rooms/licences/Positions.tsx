import { useQuery } from "@tanstack/react-query";
import { useNavigate, useSearch } from "@tanstack/react-router";
import { client, ok, type Schemas } from "../../api/client";
import { amount, count, plural } from "../../parts/format";
import { Empty, Problem, Waiting } from "../../parts/Problem";
import { useStanding } from "../../parts/standing";
import type { Search } from "../../search";
import { BalanceBar, Hatching, Legend } from "./Balance";
import { ChangedSince } from "./ChangedSince";
import { Working } from "./Working";

type Balance = Schemas["BalanceOut"];

function Verdict({ b }: { b: Balance }) {
  if (b.short) return <span className="tag bad">{count(b.short)} short</span>;
  if (b.entitled === null || b.entitled === undefined) return <span className="tag ok">without limit</span>;
  if (b.spare)
    return (
      <span className="tag ok">
        {count(b.spare)} spare{b.spare_value ? ` · ${amount(b.spare_value)}` : ""}
      </span>
    );
  return <span className="tag">even</span>;
}

/** Every balance of right and need, the costliest to cure first; beside it the working of one. */
export function Positions({ at }: { at: string | undefined }) {
  const { q } = useSearch({ strict: false }) as Search;
  const navigate = useNavigate();
  const { branch, name } = useStanding();
  const asked = useQuery({
    queryKey: ["licences", "positions", at],
    queryFn: () => ok(client.GET("/api/licences/positions", { params: { query: { as_of: at } } })),
  });
  if (asked.error)
    return (
      <div className="py-4">
        <Problem error={asked.error} />
      </div>
    );
  if (!asked.data) return <Waiting what="Reckoning positions …" />;
  const { balances, cure, uncosted, spare_value, ending, currency } = asked.data;
  if (!balances.length && branch)
    return <Empty title={`Nothing that is licensed is used in ${name}.`}>Stand elsewhere to see more.</Empty>;
  if (!balances.length)
    return (
      <Empty title="No licence is entered yet.">
        Enter what you own, or say of a product that it needs a licence; Tarn holds both against what is
        installed.
      </Empty>
    );
  const chosen = balances.find((b) => b.key === q) ?? balances[0];
  const most = Math.max(...balances.map((b) => Math.max(b.needed, b.entitled ?? 0)));
  const choose = (key: string) =>
    void navigate({ to: "/licences", search: ((before: Search) => ({ ...before, q: key })) as never });
  return (
    <div className="grid min-h-0 flex-1 items-start lg:grid-cols-[minmax(0,1fr)_380px]">
      <Hatching />
      <div className="min-w-0">
        <div className="flex flex-wrap items-baseline gap-x-6 gap-y-1 px-4 py-2.5">
          <p>
            <b className="text-[17px] font-bold tabular-nums">{amount(cure)}</b>{" "}
            <span className="dim text-[13px]">
              {currency} to cure what is short
              {uncosted > 0 && `, and ${plural(uncosted, "product")} that no known price cures`}
            </span>
          </p>
          <p>
            <b className="text-[17px] font-bold tabular-nums">{amount(spare_value)}</b>{" "}
            <span className="dim text-[13px]">{currency} worth of spare rights</span>
          </p>
          <p>
            <b className="text-[17px] font-bold tabular-nums">{ending}</b>{" "}
            <span className="dim text-[13px]">{ending === 1 ? "term ends" : "terms end"} within 60 days</span>
          </p>
          <span className="flex-1" />
          <Legend />
        </div>
        {branch && (
          <p className="dim px-4 pb-2 text-[13px]">
            Standing in {name}: what is used there. Rights are the whole company's, and so are the sums.
          </p>
        )}
        <ChangedSince at={at} choose={choose} />
        <div className="overflow-x-auto border-t border-base-300 bg-base-100">
          <table className="grid-table [&_td]:align-middle">
            <thead>
              <tr>
                <th>Product</th>
                {!branch && <th>Counted by</th>}
                <th>Right and need</th>
                <th className="num">Entitled</th>
                <th className="num">Needed</th>
                {branch && <th className="num">Covered here</th>}
                <th>Balance</th>
                <th className="num">Cure, {currency}</th>
              </tr>
            </thead>
            <tbody>
              {balances.map((b) => (
                <tr
                  key={b.key}
                  className={
                    b.key === chosen?.key ? "bg-[var(--wash)] shadow-[inset_3px_0_var(--s1)]" : undefined
                  }
                >
                  <td>
                    <button
                      type="button"
                      className="text-left font-semibold whitespace-nowrap hover:underline"
                      aria-pressed={b.key === chosen?.key}
                      onClick={() => choose(b.key)}
                    >
                      {b.name}
                    </button>
                    {b.products.length > 1 && (
                      <span className="faint block text-[12px]">{plural(b.products.length, "product")}</span>
                    )}
                  </td>
                  {!branch && (
                    <td className="dim whitespace-nowrap">
                      {b.licences.length ? b.metric : "nothing owned"}
                      {b.pack > 1 && `, packs of ${b.pack}`}
                    </td>
                  )}
                  <td>
                    <BalanceBar
                      needed={b.needed}
                      entitled={b.entitled}
                      short={b.short}
                      spare={b.spare}
                      unit={b.unit}
                      most={most}
                    />
                  </td>
                  <td className="num mono">
                    {b.entitled === null || b.entitled === undefined ? "∞" : count(b.entitled)}
                  </td>
                  <td className="num mono whitespace-nowrap">
                    {b.metric === "site" ? `${count(b.installations)} installed` : count(b.needed)}
                  </td>
                  {branch && (
                    <td className="num whitespace-nowrap">
                      {b.here && (
                        <span className={b.here.uncovered ? "tag bad" : "mono"}>
                          {count(b.here.covered)} of {count(b.here.covered + b.here.uncovered)}
                        </span>
                      )}
                    </td>
                  )}
                  <td>
                    <Verdict b={b} />
                  </td>
                  <td className="num mono whitespace-nowrap">
                    {b.short ? (b.cure ? amount(b.cure) : b.licences.length ? "not known" : "no price") : ""}
                  </td>
                </tr>
              ))}
            </tbody>
          </table>
        </div>
      </div>
      {chosen && <Working key={chosen.key} balance={chosen} at={at} currency={currency} />}
    </div>
  );
}
