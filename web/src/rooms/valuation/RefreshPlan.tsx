import { useQuery, useQueryClient } from "@tanstack/react-query";
import { useDeferredValue, useState } from "react";
import { toast } from "sonner";
import { asks, asksBy, under } from "../../api/asking";
import { client, ok, type Schemas } from "../../api/client";
import { DeviceLink } from "../../parts/DeviceLink";
import { amount, capital, count, plural } from "../../parts/format";
import { useMay } from "../../parts/me";
import { Problem, Waiting } from "../../parts/Problem";
import { useDone } from "../../parts/Sheet";
import { Table } from "../../parts/table/Table";
import { t, word } from "../../words";
import { Beside } from "./Beside";
import { BEGUN, type Draft, draftOf, type Scenario, settingsOf } from "./draft";
import { KeepScenario } from "./KeepScenario";
import { QuarterBars } from "./QuarterBars";

type Planned = Schemas["PlannedOut"];

const WEIGHTS: [string, string][] = [
  ["warranty", t("Warranty over")],
  ["faults", t("Each ticket or repair")],
  ["memory", t("Too little memory")],
  ["exposed", t("Barred software")],
  ["important", t("Much hangs on it")],
];
/** Which devices are to be replaced when: the assumptions at the left, what comes of them at the right, at once. */
export function RefreshPlan({ at }: { at: string | undefined }) {
  const may = useMay("plan") && !at;
  const [chosen, setChosen] = useState<Scenario | null>(null);
  const [draft, setDraft] = useState(BEGUN);
  const [filter, setFilter] = useState("");
  const [keeping, setKeeping] = useState(false);
  const done = useDone("valuation");
  const queries = useQueryClient();
  const kept = useQuery(asks("/api/valuation/scenarios"));
  const asked = useDeferredValue(JSON.stringify({ draft, filter, beside: chosen?.id ?? null }));
  const told = JSON.parse(asked) as { draft: Draft; filter: string; beside: number | null };
  const plan = useQuery({
    ...asksBy("/api/valuation/refresh", {
      params: { query: { as_of: at } },
      body: { filter: told.filter, settings: settingsOf(told.draft), beside: told.beside, most: 120 },
    }),
    placeholderData: (before) => before,
    retry: false,
  });
  const open = (one: Scenario | null) => {
    setChosen(one);
    setDraft(one ? draftOf(one) : BEGUN);
    setFilter(one?.filter ?? "");
  };
  const drop = async () => {
    if (
      !chosen ||
      !window.confirm(t("Drop “{{name}}”? It can be undone in Settings.", { name: chosen.name }))
    )
      return;
    const dropped = await done(
      () =>
        ok(client.DELETE("/api/valuation/scenarios/{number}", { params: { path: { number: chosen.id } } })),
      t("“{{name}}” is dropped.", { name: chosen.name }),
    );
    if (dropped) open(null);
  };
  return (
    <>
      <div className="flex flex-wrap items-center gap-1.5 pb-2.5">
        {(kept.data ?? []).map((s) => (
          <button
            key={s.id}
            type="button"
            aria-pressed={chosen?.id === s.id}
            className={`btn btn-sm ${chosen?.id === s.id ? "btn-primary" : ""}`}
            onClick={() => open(s)}
          >
            {s.name}
          </button>
        ))}
        {chosen && (
          <button type="button" className="btn btn-ghost btn-sm" onClick={() => open(null)}>
            {t("Begin anew")}
          </button>
        )}
        <span className="flex-1" />
        {may && chosen && (
          <button type="button" className="btn btn-sm text-error" onClick={() => void drop()}>
            {t("Drop")}
          </button>
        )}
        {may && (
          <button type="button" className="btn btn-primary btn-sm" onClick={() => setKeeping(true)}>
            {t("Keep this scenario")}
          </button>
        )}
      </div>
      {(kept.data?.length ?? 0) > 1 && <Beside at={at} />}
      <div className="grid items-start gap-3 lg:grid-cols-[300px_minmax(0,1fr)]">
        <Assumptions d={draft} set={setDraft} filter={filter} setFilter={setFilter} plan={plan.data} />
        <div className="min-w-0">
          {plan.error ? <Problem error={plan.error} /> : null}
          {!plan.data && !plan.error ? <Waiting what={t("Drawing the plan …")} /> : null}
          {plan.data && <Outcome p={plan.data} at={at} beside={chosen?.name} />}
        </div>
      </div>
      {keeping && (
        <KeepScenario
          held={chosen}
          filter={filter}
          draft={draft}
          kept={async (made) => {
            setKeeping(false);
            await queries.invalidateQueries(under("valuation"));
            setChosen(made);
            toast.success(t("“{{name}}” is kept.", { name: made.name }));
          }}
          close={() => setKeeping(false)}
        />
      )}
    </>
  );
}

interface AssumptionsProps {
  d: Draft;
  set: (d: Draft) => void;
  filter: string;
  setFilter: (filter: string) => void;
  plan: Planned | undefined;
}

function Assumptions({ d, set, filter, setFilter, plan }: AssumptionsProps) {
  const budget = Number(d.budget) || 0;
  const put = (group: "life" | "price" | "memory" | "earlier", key: string, value: string) =>
    set({ ...d, [group]: { ...d[group], [key]: value } });
  const kinds = [...(plan?.kinds ?? [])].sort((a, b) => b.planned - a.planned || b.devices - a.devices);
  return (
    <section className="sheet px-3.5 py-3 text-[13px]" aria-label={t("What the plan is made by")}>
      <label className="block pb-2">
        <span className="mb-1 block font-semibold">{t("Devices that answer")}</span>
        <input
          className="input input-sm mono w-full"
          placeholder={t("all that are in use or in stock")}
          value={filter}
          onChange={(e) => setFilter(e.target.value)}
        />
      </label>
      <label className="block">
        <span className="mb-1 flex justify-between font-semibold">
          {t("Budget a quarter")}
          <span className="tabular-nums">
            {d.budget ? `${amount(String(budget))} ${plan?.currency ?? ""}` : t("without limit")}
          </span>
        </span>
        <input
          type="range"
          aria-label={t("Budget a quarter")}
          className="range range-xs range-primary w-full"
          min={0}
          max={60_000}
          step={1_000}
          value={d.budget ? budget : 60_000}
          onChange={(e) => set({ ...d, budget: e.target.value === "60000" ? "" : e.target.value })}
        />
      </label>
      <label className="flex items-center justify-between py-2">
        <span className="font-semibold">{t("Quarters")}</span>
        <input
          type="number"
          min={1}
          max={20}
          className="input input-sm w-20"
          value={d.quarters}
          onChange={(e) => set({ ...d, quarters: e.target.value })}
        />
      </label>
      <fieldset className="pt-1">
        <legend className="pb-1 font-semibold">{t("Due earlier by, months")}</legend>
        {WEIGHTS.map(([key, label]) => (
          <label key={key} className="flex items-center justify-between py-0.5" title={plan?.factors[key]}>
            {label}
            <input
              type="number"
              min={0}
              max={120}
              className="input input-xs w-16"
              value={d.earlier[key] ?? "0"}
              onChange={(e) => put("earlier", key, e.target.value)}
            />
          </label>
        ))}
      </fieldset>
      <fieldset className="pt-2">
        <legend className="pb-1 font-semibold">{t("By kind")}</legend>
        <div className="max-h-[46vh] overflow-auto">
          {kinds.map((k) => (
            <div key={k.kind} className="border-t border-[var(--line-2)] py-1.5">
              <p className="flex justify-between">
                <b className="font-semibold">{capital(word(k.kind))}</b>
                <span className="faint">
                  {t("{{planned}} of {{devices}}", { planned: k.planned, devices: k.devices })}
                </span>
              </p>
              <label className="flex items-center gap-2">
                <span className="dim w-12">{t("Life")}</span>
                <input
                  type="range"
                  aria-label={t("Life of a {{kind}}, months", { kind: word(k.kind) })}
                  className="range range-xs flex-1"
                  min={12}
                  max={120}
                  step={3}
                  value={d.life[k.kind] || "60"}
                  onChange={(e) => put("life", k.kind, e.target.value)}
                />
                <span className="w-12 text-right tabular-nums">
                  {t("{{life}} mo", { life: d.life[k.kind] || "60" })}
                </span>
              </label>
              <div className="flex items-center gap-2 pt-0.5">
                <span className="dim w-12">{t("Price")}</span>
                <input
                  aria-label={t("Price of a {{kind}}", { kind: word(k.kind) })}
                  className="input input-xs min-w-0 flex-1"
                  placeholder={k.price ? t("last {{price}}", { price: amount(k.price) }) : t("not known")}
                  value={d.price[k.kind] ?? ""}
                  onChange={(e) => put("price", k.kind, e.target.value)}
                />
                <input
                  aria-label={t("Memory a {{kind}} should have, GB", { kind: word(k.kind) })}
                  className="input input-xs w-20"
                  placeholder={t("GB")}
                  title={t("Memory it should have, in GB")}
                  value={d.memory[k.kind] ?? ""}
                  onChange={(e) => put("memory", k.kind, e.target.value)}
                />
              </div>
            </div>
          ))}
        </div>
      </fieldset>
    </section>
  );
}

function Outcome({ p, at, beside }: { p: Planned; at: string | undefined; beside: string | undefined }) {
  const waiting = p.quarters.at(-1)?.waiting ?? 0;
  return (
    <>
      <p className="pb-2 text-[13.5px]">
        <b className="font-semibold tabular-nums">{count(p.planned)}</b>{" "}
        {t("of {{devices}} to replace for", { devices: plural(p.devices, "device") })}{" "}
        <b className="font-semibold tabular-nums">{amount(p.cost)}</b> {p.currency}
        {waiting > 0 && (
          <span className="tag warn ml-2">{t("{{waiting}} still wait at the end", { waiting })}</span>
        )}
        {beside && p.moved > 0 && (
          <span className="tag note ml-2">
            {t("{{devices}} otherwise than in “{{beside}}”", { devices: plural(p.moved, "device"), beside })}
          </span>
        )}
        {p.unpriced > 0 && (
          <span className="tag ml-2">
            {t("{{unpriced}} without a price, in no sum", { unpriced: p.unpriced })}
          </span>
        )}
      </p>
      <QuarterBars p={p} />
      <section className="sheet mt-3 overflow-x-auto" aria-label={t("Device by device")}>
        <Table
          list="refresh-plan"
          label={t("Device by device")}
          rows={p.rows}
          rowKey={(r) => r.id}
          columns={[
            {
              key: "device_the_longest_due_first",
              label: t("Device, the longest due first"),
              of: (r) => r.name ?? r.number,
              cell: (r) => (
                <>
                  <DeviceLink asset={r.id} at={at} className="link-quiet mono font-semibold">
                    {r.name ?? r.number}
                  </DeviceLink>{" "}
                  <span className="dim">{r.kind}</span>
                </>
              ),
              className: "whitespace-nowrap",
            },
            { key: "due", label: t("Due"), of: (r) => r.due, mono: true, className: "whitespace-nowrap" },
            {
              key: "planned_for",
              label: t("Planned for"),
              of: (r) => r.quarter,
              cell: (r) => (
                <>
                  {r.quarter || <span className="faint">{t("not reached")}</span>}
                  {r.moved && <span className="tag note ml-1.5">{t("moved")}</span>}
                </>
              ),
              className: "whitespace-nowrap",
            },
            {
              key: "price",
              label: t("Price"),
              of: (r) => r.price,
              cell: (r) => (Number(r.price) ? amount(r.price) : ""),
              num: true,
              mono: true,
            },
            { key: "why_then", label: t("Why then"), of: (r) => r.why, className: "dim text-[12.5px]" },
          ]}
        />
      </section>
    </>
  );
}
