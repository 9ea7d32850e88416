import { useQuery, useQueryClient } from "@tanstack/react-query";
import { Link } from "@tanstack/react-router";
import { useState } from "react";
import { toast } from "sonner";
import { asks, under } from "../../api/asking";
import { client, ok, type Schemas } from "../../api/client";
import { FilterField } from "../../parts/ask/FilterField";
import { DeviceLink } from "../../parts/DeviceLink";
import { Dialog } from "../../parts/Dialog";
import { useDraft } from "../../parts/draft";
import { FormFoot, TextField } from "../../parts/Form";
import { count, plural } from "../../parts/format";
import { useMay } from "../../parts/me";
import { Empty, Unanswered } from "../../parts/Problem";
import { Sheet } from "../../parts/Sheet";
import { Table } from "../../parts/table/Table";
import { t } from "../../words";

type Baseline = Schemas["BaselineOut"];

/** What devices should have: how each condition stands, and which devices lack what. */
export function Baselines({ at }: { at: string | undefined }) {
  const [making, setMaking] = useState<Baseline | "new" | null>(null);
  const may = useMay("plan") && !at;
  const asked = useQuery(asks("/api/software/baselines", { params: { query: { as_of: at } } }));
  if (asked.error || !asked.data)
    return <Unanswered asked={asked} what={t("Looking for what is missing …")} />;
  return (
    <>
      <div className="flex py-2.5">
        <span className="flex-1" />
        {may && (
          <button type="button" className="btn btn-primary btn-sm" onClick={() => setMaking("new")}>
            {t("New baseline")}
          </button>
        )}
      </div>
      {asked.data.length === 0 && (
        <Empty title={t("No baseline yet.")}>
          {t("A baseline says what devices should have: an office suite, protection that is on, encryption.")}
        </Empty>
      )}
      {asked.data.map((b) => (
        <One key={b.id} baseline={b} at={at} change={may ? () => setMaking(b) : undefined} />
      ))}
      {making && <BaselineForm held={making === "new" ? null : making} close={() => setMaking(null)} />}
    </>
  );
}

function One({
  baseline: b,
  at,
  change,
}: {
  baseline: Baseline;
  at: string | undefined;
  change?: () => void;
}) {
  const [open, setOpen] = useState(false);
  return (
    <Sheet
      id={`baseline-${b.id}`}
      className="mb-3"
      title={b.name}
      hint={t("{{devices}}: {{whole}} have all, {{lack}} lack something{{which}}", {
        devices: plural(b.devices, "device"),
        whole: count(b.whole),
        lack: count(b.lack),
        which: b.unread ? t(", {{unread}} were never read", { unread: count(b.unread) }) : "",
      })}
      actions={
        change && (
          <button type="button" className="btn btn-sm" onClick={change}>
            {t("Change")}
          </button>
        )
      }
    >
      <Table
        list="baseline-conditions"
        label={b.name}
        rows={b.rules}
        rowKey={(r) => r.filter}
        columns={[
          {
            key: "should_be_so",
            label: t("Should be so"),
            of: (r) => r.name,
            cell: (r) => (
              <>
                <b className="font-semibold">{r.name}</b>
                {r.name !== r.filter && <span className="mono faint block">{r.filter}</span>}
              </>
            ),
          },
          {
            key: "do",
            label: "",
            cell: (r) => <Share have={r.have} lack={r.lack} unread={r.unread} />,
            className: "w-[30%]",
          },
          { key: "have_it", label: t("Have it"), of: (r) => r.have, cell: (r) => count(r.have), num: true },
          {
            key: "lack_it",
            label: t("Lack it"),
            of: (r) => r.lack,
            cell: (r) =>
              r.lack ? (
                <Link to="/estate" search={{ at, q: r.lacking }} className="link-quiet font-semibold">
                  {count(r.lack)}
                </Link>
              ) : (
                "0"
              ),
            num: true,
          },
          {
            key: "never_read",
            label: t("Never read"),
            of: (r) => r.unread,
            cell: (r) =>
              r.unread && r.never ? (
                <Link to="/estate" search={{ at, q: r.never }} className="link-quiet">
                  {count(r.unread)}
                </Link>
              ) : (
                count(r.unread)
              ),
            num: true,
            className: "faint",
          },
        ]}
      />
      {b.rows.length > 0 && (
        <div className="border-t border-base-300">
          <button
            type="button"
            className="link-quiet px-3.5 py-2 text-[13px] font-semibold"
            aria-expanded={open}
            onClick={() => setOpen(!open)}
          >
            {open ? t("Hide the devices") : t("Device by device, {{lack}}", { lack: b.lack })}
          </button>
          {open && (
            <Table
              list="baseline-lacking"
              label={b.name}
              rows={b.rows}
              rowKey={(d) => d.id}
              columns={[
                {
                  key: "device",
                  label: t("Device"),
                  of: (d) => d.name ?? d.number,
                  cell: (d) => (
                    <DeviceLink asset={d.id} at={at} className="link-quiet">
                      {d.name ?? d.number}
                    </DeviceLink>
                  ),
                  mono: true,
                },
                { key: "kind", label: t("Kind"), of: (d) => d.kind, className: "dim" },
                { key: "place", label: t("Place"), of: (d) => d.place, className: "dim" },
                {
                  key: "lacks",
                  label: t("Lacks"),
                  of: (d) => d.lacks.join(", "),
                },
                {
                  key: "never_read",
                  label: t("Never read"),
                  of: (d) => d.unread.join(", "),
                  className: "faint",
                },
              ]}
            />
          )}
        </div>
      )}
    </Sheet>
  );
}

function Share({ have, lack, unread }: { have: number; lack: number; unread: number }) {
  const all = Math.max(1, have + lack + unread);
  const part = (n: number, background: string) => (
    <span className="h-full" style={{ width: `${(100 * n) / all}%`, background }} />
  );
  return (
    <span
      className="flex h-[10px] overflow-hidden rounded-sm"
      role="img"
      aria-label={t("{{have}} have it, {{lack}} lack it, {{unread}} never read", { have, lack, unread })}
    >
      {part(have, "var(--s2)")}
      {part(lack, "var(--color-accent)")}
      {part(unread, "var(--s8)")}
    </span>
  );
}

function BaselineForm({ held, close }: { held: Baseline | null; close: () => void }) {
  const queries = useQueryClient();
  const { v, field, submit, attempt, wrong, rest } = useDraft({
    name: held?.name ?? "",
    filter: held?.filter ?? "kind in (workstation, laptop)",
  });
  const { name, filter } = v;
  const [rules, setRules] = useState<{ name: string; filter: string; key: number }[]>(
    (held?.rules ?? [{ name: "", filter: "" }]).map((r, key) => ({ name: r.name, filter: r.filter, key })),
  );
  const change = (key: number, to: Partial<{ name: string; filter: string }>) =>
    setRules(rules.map((r) => (r.key === key ? { ...r, ...to } : r)));
  const after = async (said: string) => {
    toast.success(said);
    await queries.invalidateQueries(under("software/baselines"));
    close();
  };
  const save = submit(async () => {
    const body = {
      name,
      filter,
      rules: rules.map((r) => ({ name: r.name, filter: r.filter })),
      version: held?.version,
    };

    if (held)
      await ok(
        client.PUT("/api/software/baselines/{number}", { params: { path: { number: held.id } }, body }),
      );
    else await ok(client.POST("/api/software/baselines", { body }));
    await after(t("“{{name}}” is kept.", { name }));
  });
  const drop = async () => {
    if (
      !held ||
      !window.confirm(t("Drop the baseline “{{name}}”? The devices stay as they are.", { name: held.name }))
    )
      return;
    await attempt(async () => {
      await ok(client.DELETE("/api/software/baselines/{number}", { params: { path: { number: held.id } } }));
      await after(t("“{{name}}” is dropped.", { name: held.name }));
    });
  };
  return (
    <Dialog title={held ? t("Change {{name}}", { name: held.name }) : t("New baseline")} close={close} wide>
      <form onSubmit={save}>
        <TextField label={t("Name")} {...field("name")} required />
        <FilterField
          label={t("Which devices")}
          {...field("filter")}
          hint={t("A filter; empty: the whole register.")}
        />
        <p className="mb-1 text-[13px] font-semibold">{t("What should be so")}</p>
        {rules.map((r, i) => (
          <div key={r.key} className="mb-2 flex gap-2">
            <input
              className="input w-44"
              placeholder={t("an office suite")}
              aria-label={t("Name of condition {{i}}", { i: i + 1 })}
              value={r.name}
              onChange={(e) => change(r.key, { name: e.target.value })}
            />
            <input
              className="input mono flex-1"
              placeholder="software[product in @office_suites]"
              aria-label={t("Condition {{i}}", { i: i + 1 })}
              value={r.filter}
              onChange={(e) => change(r.key, { filter: e.target.value })}
            />
            <button
              type="button"
              className="btn"
              aria-label={t("Take condition {{i}} away", { i: i + 1 })}
              disabled={rules.length === 1}
              onClick={() => setRules(rules.filter((o) => o.key !== r.key))}
            >
              −
            </button>
          </div>
        ))}
        {wrong("rules") && (
          <p role="alert" className="mb-2 text-[12.5px] font-semibold text-error">
            {wrong("rules")}
          </p>
        )}
        <button
          type="button"
          className="btn btn-sm"
          onClick={() => setRules([...rules, { name: "", filter: "", key: Date.now() }])}
        >
          {t("Another condition")}
        </button>
        {rest}
        <FormFoot close={close} drop={held ? () => void drop() : undefined} />
      </form>
    </Dialog>
  );
}
