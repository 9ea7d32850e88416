import { useQuery } from "@tanstack/react-query";
import { useNavigate, useSearch } from "@tanstack/react-router";
import { asks } from "../../api/asking";
import type { Schemas } from "../../api/client";
import { amount, count, plural } from "../../parts/format";
import { Empty, Unanswered } from "../../parts/Problem";
import { useStanding } from "../../parts/standing";
import { Table } from "../../parts/table/Table";
import type { Search } from "../../search";
import { t } from "../../words";
import { BalanceBar, Hatching, Legend } from "./Balance";
import { ChangedSince } from "./ChangedSince";
import { Working } from "./Working";

type Balance = Schemas["BalanceOut"];

function Verdict({ b }: { b: Balance }) {
  if (b.short) return <span className="tag bad">{t("{{short}} short", { short: count(b.short) })}</span>;
  if (b.entitled === null || b.entitled === undefined)
    return <span className="tag ok">{t("without limit")}</span>;
  if (b.spare)
    return (
      <span className="tag ok">
        {t("{{spare}} spare{{which}}", {
          spare: count(b.spare),
          which: b.spare_value ? ` · ${amount(b.spare_value)}` : "",
        })}
      </span>
    );
  return <span className="tag">{t("even")}</span>;
}

/** Every balance of right and need, the costliest to cure first; beside it the working of one. */
export function Positions({ at }: { at: string | undefined }) {
  const { q } = useSearch({ strict: false }) as Search;
  const navigate = useNavigate();
  const { branch, name } = useStanding();
  const asked = useQuery(asks("/api/licences/positions", { params: { query: { as_of: at } } }));
  if (asked.error || !asked.data) return <Unanswered asked={asked} what={t("Reckoning positions …")} />;
  const { balances, cure, uncosted, spare_value, ending, currency } = asked.data;
  if (!balances.length && branch)
    return (
      <Empty title={t("Nothing that is licensed is used in {{name}}.", { name })}>
        {t("Stand elsewhere to see more.")}
      </Empty>
    );
  if (!balances.length)
    return (
      <Empty title={t("No licence is entered yet.")}>
        {t(
          "Enter what you own, or say of a product that it needs a licence; Tarn holds both against what is installed.",
        )}
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
              {t("{{currency}} to cure what is short", { currency })}
              {uncosted > 0 &&
                t(", and {{products}} that no known price cures", { products: plural(uncosted, "product") })}
            </span>
          </p>
          <p>
            <b className="text-[17px] font-bold tabular-nums">{amount(spare_value)}</b>{" "}
            <span className="dim text-[13px]">{t("{{currency}} worth of spare rights", { currency })}</span>
          </p>
          <p>
            <b className="text-[17px] font-bold tabular-nums">{ending}</b>{" "}
            <span className="dim text-[13px]">
              {t("{{which}} within 60 days", { which: ending === 1 ? t("term ends") : t("terms end") })}
            </span>
          </p>
          <span className="flex-1" />
          <Legend />
        </div>
        {branch && (
          <p className="dim px-4 pb-2 text-[13px]">
            {t(
              "Standing in {{name}}: what is used there. Rights are the whole company's, and so are the sums.",
              { name },
            )}
          </p>
        )}
        <ChangedSince at={at} choose={choose} />
        <div className="overflow-x-auto border-t border-base-300 bg-base-100 [&_td]:align-middle">
          <Table
            list="positions"
            label={t("Positions")}
            rows={balances}
            rowKey={(b) => b.key}
            rowClass={(b) =>
              b.key === chosen?.key ? "bg-[var(--wash)] shadow-[inset_3px_0_var(--s1)]" : undefined
            }
            columns={[
              {
                key: "product",
                label: t("Product"),
                of: (b) => b.name,
                cell: (b) => (
                  <>
                    <button
                      type="button"
                      className="text-left font-semibold hover:underline"
                      aria-pressed={b.key === chosen?.key}
                      onClick={() => choose(b.key)}
                    >
                      {b.name}
                    </button>
                    {b.products.length > 1 && (
                      <span className="faint block text-[12px]">{plural(b.products.length, "product")}</span>
                    )}
                  </>
                ),
              },
              ...(branch
                ? []
                : [
                    {
                      key: "metric",
                      label: t("Counted by"),
                      of: (b: Balance) =>
                        (b.licences.length ? b.metric : t("nothing owned")) +
                        (b.pack > 1 ? t(", packs of {{pack}}", { pack: b.pack }) : ""),
                      className: "dim whitespace-nowrap",
                    },
                  ]),
              {
                key: "bar",
                label: t("Right and need"),
                of: (b) => b.needed - (b.entitled ?? b.needed),
                cell: (b) => (
                  <BalanceBar
                    needed={b.needed}
                    entitled={b.entitled}
                    short={b.short}
                    spare={b.spare}
                    unit={b.unit}
                    most={most}
                  />
                ),
                className: "align-middle",
              },
              {
                key: "entitled",
                label: t("Entitled"),
                of: (b) => b.entitled ?? "∞",
                cell: (b) => (b.entitled === null || b.entitled === undefined ? "∞" : count(b.entitled)),
                num: true,
                mono: true,
              },
              {
                key: "needed",
                label: t("Needed"),
                of: (b) => (b.metric === "site" ? b.installations : b.needed),
                cell: (b) => (b.metric === "site" ? `${count(b.installations)} installed` : count(b.needed)),
                num: true,
                mono: true,
                className: "whitespace-nowrap",
              },
              ...(branch
                ? [
                    {
                      key: "here",
                      label: t("Covered here"),
                      of: (b: Balance) => b.here?.covered,
                      cell: (b: Balance) =>
                        b.here && (
                          <span className={b.here.uncovered ? "tag bad" : "mono"}>
                            {t("{{covered}} of {{covered2}}", {
                              covered: count(b.here.covered),
                              covered2: count(b.here.covered + b.here.uncovered),
                            })}
                          </span>
                        ),
                      num: true,
                      className: "whitespace-nowrap",
                    },
                  ]
                : []),
              {
                key: "balance",
                label: t("Balance"),
                of: (b) => (b.short ? -b.short : b.spare),
                cell: (b) => <Verdict b={b} />,
              },
              {
                key: "cure",
                label: t("Cure, {{currency}}", { currency }),
                of: (b) => (b.short ? b.cure : null),
                cell: (b) =>
                  b.short
                    ? b.cure
                      ? amount(b.cure)
                      : b.licences.length
                        ? t("not known")
                        : t("no price")
                    : "",
                num: true,
                mono: true,
                className: "whitespace-nowrap",
              },
            ]}
          />
        </div>
      </div>
      {chosen && <Working key={chosen.key} balance={chosen} at={at} currency={currency} />}
    </div>
  );
}
