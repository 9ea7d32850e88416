import { useQuery } from "@tanstack/react-query";
import { Link } from "@tanstack/react-router";
import { useState } from "react";
import { asks } from "../../api/asking";
import type { Schemas } from "../../api/client";
import { DeviceLink } from "../../parts/DeviceLink";
import { amount, count, plural, shortDay } from "../../parts/format";
import { useMay } from "../../parts/me";
import { Problem, Waiting } from "../../parts/Problem";
import { Table } from "../../parts/table/Table";
import { t } from "../../words";
import { SayDialog } from "./SayDialog";

type Why = Schemas["WhyOut"];

const SIGNS: Record<string, string> = { "": "", "+": "+", "=": "=", "-": "−" };

/** One balance as one would reckon it on paper, its cures, and what nothing covers. */
export function Working({
  balance,
  at,
  currency,
}: {
  balance: Schemas["BalanceOut"];
  at: string | undefined;
  currency: string;
}) {
  const asked = useQuery(
    asks("/api/licences/positions/{key}", {
      params: { path: { key: balance.key }, query: { as_of: at } },
    }),
  );
  const said = balance.short
    ? t("Why {{name}} is {{short}} short", { name: balance.name, short: count(balance.short) })
    : balance.spare
      ? t("Why {{name}} has {{spare}} to spare", { name: balance.name, spare: count(balance.spare) })
      : t("Why {{name}} is even", { name: balance.name });
  return (
    <aside
      aria-label={said}
      className="border-base-300 bg-base-100 px-4 py-3 max-lg:border-t lg:min-h-[calc(100dvh-130px)] lg:border-l"
    >
      <h2 className="dim mb-1 text-[13px] font-semibold">{said}</h2>
      {asked.error ? <Problem error={asked.error} /> : null}
      {asked.data ? (
        <Reckoning w={asked.data} at={at} currency={currency} />
      ) : (
        <Waiting what={t("Reckoning …")} />
      )}
    </aside>
  );
}

function Reckoning({ w, at, currency }: { w: Why; at: string | undefined; currency: string }) {
  return (
    <>
      <ol>
        {w.working.map((s, n) => (
          <li
            key={`${n}${s.text}`}
            className="grid grid-cols-[64px_1fr] gap-x-2.5 border-b border-dashed border-base-300 py-1.5"
          >
            <b className={`num mono text-[14px] ${s.sign === "=" ? "font-bold" : "font-semibold"}`}>
              {SIGNS[s.sign]} {count(s.figure)}
            </b>
            <span className="text-[13px]">
              {s.text}
              {s.note && <span className="faint block text-[12px]">{s.note}</span>}
            </span>
          </li>
        ))}
      </ol>
      {w.licences.length > 0 && (
        <p className="dim pt-2 text-[12.5px]">
          {w.licences.map((one, n) => (
            <span key={one.id}>
              {n > 0 && ", "}
              <Link
                to="/licences/$licence"
                params={{ licence: String(one.id) }}
                search={{ at }}
                className="link-quiet font-semibold"
              >
                {one.name}
              </Link>
            </span>
          ))}
        </p>
      )}
      <Cures w={w} currency={currency} />
      {w.short > 0 && (
        <p className="pt-1.5 text-[12.5px]">
          <Link to="/licences" search={{ at, tab: "remedy" } as never} className="link-quiet font-semibold">
            {t("The cheapest way over all licences")}
          </Link>
        </p>
      )}
      <Trend balance={w.key} at={at} />
      {w.warnings.length > 0 && (
        <ul className="mt-3 space-y-1">
          {w.warnings.map((text) => (
            <li key={text} className="rounded bg-warning px-2.5 py-1.5 text-[12.5px] text-warning-content">
              {text}
            </li>
          ))}
        </ul>
      )}
      <Uncovered w={w} at={at} />
      {w.left_out.length > 0 && <LeftOut w={w} at={at} />}
      {w.departments.length > 1 && (
        <details className="mt-3 text-[12.5px]">
          <summary className="cursor-pointer font-semibold">
            {t("By department, in {{unit}}", { unit: w.unit })}
          </summary>
          <Table
            list="balance-departments"
            label={t("By department")}
            rows={w.departments}
            rowKey={(d) => d.name}
            columns={[
              { key: "department", label: t("Department"), of: (d) => d.name },
              { key: "covered", label: t("Covered"), of: (d) => d.covered, num: true, mono: true },
              {
                key: "not",
                label: t("Not"),
                of: (d) => d.uncovered,
                cell: (d) => d.uncovered || "",
                num: true,
                mono: true,
              },
            ]}
          />
        </details>
      )}
    </>
  );
}

/** How need and right stood over the past year; reckoned only when it is opened. */
function Trend({ balance, at }: { balance: string; at: string | undefined }) {
  const [open, setOpen] = useState(false);
  const asked = useQuery({
    ...asks("/api/licences/positions/{key}/trend", {
      params: { path: { key: balance }, query: { as_of: at } },
    }),
    enabled: open,
  });
  return (
    <details className="mt-3 text-[12.5px]" onToggle={(e) => setOpen(e.currentTarget.open)}>
      <summary className="cursor-pointer font-semibold">{t("The past year")}</summary>
      {asked.error ? <Problem error={asked.error} /> : null}
      {open && asked.isPending ? <Waiting what={t("Reckoning past days …")} /> : null}
      {asked.data && (
        <Table
          list="balance-days"
          label={t("Day by day")}
          rows={asked.data}
          rowKey={(p) => p.day}
          columns={[
            {
              key: "day",
              label: t("Day"),
              of: (p) => p.day,
              cell: (p) => shortDay(p.day),
              className: "whitespace-nowrap",
            },
            {
              key: "needed",
              label: t("Needed"),
              of: (p) => p.needed,
              cell: (p) => count(p.needed),
              num: true,
              mono: true,
            },
            {
              key: "entitled",
              label: t("Entitled"),
              of: (p) => p.entitled,
              cell: (p) => (p.entitled === null ? "∞" : count(p.entitled ?? 0)),
              num: true,
              mono: true,
            },
            {
              key: "short",
              label: t("Short"),
              of: (p) => p.short,
              cell: (p) => p.short || "",
              num: true,
              mono: true,
            },
          ]}
        />
      )}
    </details>
  );
}

function Asset({ asset, name, at }: { asset: number; name: string; at: string | undefined }) {
  return (
    <DeviceLink asset={asset} at={at}>
      {name}
    </DeviceLink>
  );
}

/** What does not count, and why; what a person has said of it can be taken back. */
function LeftOut({ w, at }: { w: Why; at: string | undefined }) {
  const may = useMay("decide") && !at;
  const [picked, setPicked] = useState<Why["left_out"][number] | null>(null);
  return (
    <details className="mt-3 text-[12.5px]">
      <summary className="cursor-pointer font-semibold">
        {t("{{installations}} left out", { installations: plural(w.left_out.length, "installation") })}
      </summary>
      <ul className="pt-1">
        {w.left_out.map((o) => (
          <li key={`${o.asset}${o.product}`} className="py-0.5">
            <Asset asset={o.asset} name={o.name} at={at} /> <span className="dim">{o.reason}</span>
            {may && o.reason.startsWith("exempt") && (
              <button
                type="button"
                className="link-quiet float-right font-semibold"
                aria-label={t("Say of {{name}}", { name: o.name })}
                onClick={() => setPicked(o)}
              >
                {t("Say")}
              </button>
            )}
          </li>
        ))}
      </ul>
      {picked && (
        <SayDialog
          product={picked.product}
          assets={[picked.asset]}
          licences={w.licences}
          close={() => setPicked(null)}
        />
      )}
    </details>
  );
}

function Cures({ w, currency }: { w: Why; currency: string }) {
  if (!w.cures.length) return null;
  return (
    <section className="pt-3">
      <h3 className="dim mb-1.5 text-[13px] font-semibold">{t("Cheapest cure")}</h3>
      <ul className="space-y-1.5">
        {w.cures.map((c, n) => {
          const buy = c.buy
            ? t("Buy {{which}}{{which2}}.", {
                which:
                  w.pack > 1
                    ? t("{{packs}} of {{pack}}", { packs: plural(c.packs, "pack"), pack: w.pack })
                    : count(c.buy),
                which2: c.price ? t(" at {{price}} {{currency}}", { price: amount(c.price), currency }) : "",
              })
            : t("Nothing to buy.");
          const unknown = c.buy > 0 && !c.cost;
          return (
            <li key={`${c.freed}-${c.buy}`} className="flex items-baseline gap-2.5 text-[13px]">
              <span className={`tag ${c.decides ? "note" : n ? "" : "warn"}`}>
                {n > 0 && t("or ")}
                {c.cost ? amount(c.cost) : t("not known")}
              </span>
              <span>
                {c.free.length > 0 && (
                  <>
                    {t("Give up {{units}}: {{free}}", {
                      units: plural(c.freed, "unit"),
                      free: c.free
                        .slice(0, 4)
                        .map((f) => `${f.name} (${f.why})`)
                        .join(", "),
                    })}
                    {c.free.length > 4 && t(" and {{free}} more", { free: c.free.length - 4 })}.{" "}
                  </>
                )}
                {unknown ? t("No purchase is known to cure this; the reasons are below.") : buy}{" "}
                {c.anew > 0 &&
                  c.cost &&
                  `${c.anew === c.buy ? t("Anew") : t("{{anew}} of them anew", { anew: count(c.anew) })}: more of what is owned would not cover them. `}
                {c.decides && <span className="dim">{t("Needs a decision.")}</span>}
              </span>
            </li>
          );
        })}
      </ul>
    </section>
  );
}

function Uncovered({ w, at }: { w: Why; at: string | undefined }) {
  const may = useMay("decide") && !at;
  const [picked, setPicked] = useState<Why["uncovered"][number] | null>(null);
  const [all, setAll] = useState(false);
  if (!w.uncovered_all) return null;
  const shown = all ? w.uncovered : w.uncovered.slice(0, 6);
  return (
    <section className="pt-3">
      <h3 className="dim mb-1 text-[13px] font-semibold">
        {t("Nothing covers these {{uncovered_all}}", { uncovered_all: count(w.uncovered_all) })}
      </h3>
      <ul>
        {shown.map((u) => (
          <li key={`${u.asset}${u.product}`} className="border-b border-[var(--line-2)] py-1 text-[12.5px]">
            <Asset asset={u.asset} name={u.name} at={at} /> <span className="mono dim">{u.release}</span>{" "}
            {u.person && <span className="dim">{u.person}</span>}
            {may && (
              <button
                type="button"
                className="link-quiet float-right font-semibold"
                aria-label={t("Say of {{name}}", { name: u.name })}
                onClick={() => setPicked(u)}
              >
                {t("Say")}
              </button>
            )}
            {u.reasons.map((r) => (
              <span key={r.licence + r.reason} className="faint block text-[12px]">
                {r.licence && `${r.licence}: `}
                {r.reason}
              </span>
            ))}
          </li>
        ))}
      </ul>
      <p className="flex gap-3 pt-1 text-[12.5px]">
        {!all && w.uncovered.length > 6 && (
          <button type="button" className="link-quiet font-semibold" onClick={() => setAll(true)}>
            {t("{{uncovered}} more", { uncovered: count(w.uncovered.length - 6) })}
          </button>
        )}
        {w.uncovered_all > w.uncovered.length && all && (
          <span className="dim">
            {t("and {{uncovered_all}} more", { uncovered_all: count(w.uncovered_all - w.uncovered.length) })}
          </span>
        )}
      </p>
      {picked && (
        <SayDialog
          product={picked.product}
          assets={[picked.asset]}
          licences={w.licences}
          close={() => setPicked(null)}
        />
      )}
    </section>
  );
}
