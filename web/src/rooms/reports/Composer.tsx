import { useQuery, useQueryClient } from "@tanstack/react-query";
import { useNavigate, useSearch } from "@tanstack/react-router";
import { useDeferredValue, useEffect, useState } from "react";
import { toast } from "sonner";
import { asks, asksBy } from "../../api/asking";
import { ApiProblem, client, ok } from "../../api/client";
import { FilterField } from "../../parts/ask/FilterField";
import { useDraft } from "../../parts/draft";
import { type Access, AccessChoice, Choice, TextField } from "../../parts/Form";
import { Problem, Waiting } from "../../parts/Problem";
import type { Search } from "../../search";
import { t } from "../../words";
import {
  begun,
  type Column,
  type Definition,
  EMPTY,
  Reckoned,
  type RowKind,
  type Total,
  useRowKinds,
  useRowWords,
  WHOLE_ROWS,
} from "./composing";
import { Details } from "./Details";
import { Lines } from "./Lines";

const FIRST = 14;

/** Compose a report: what a row is, columns, question, groups and figures, with its first rows beside every step. */
export function Composer() {
  const { from } = useSearch({ strict: false }) as Search;
  const known = useRowKinds();
  const held = useQuery({
    ...asks("/api/reports/shown/{key}", { params: { path: { key: from ?? "" } } }),
    enabled: Boolean(from),
  });
  if (held.error)
    return (
      <div className="p-6">
        <Problem error={held.error} />
      </div>
    );
  if (!known.data || (from && !held.data)) return <Waiting what={t("Laying out the composer …")} />;
  const definition = (held.data?.definition as unknown as Definition | undefined) ?? EMPTY;
  return (
    <Form
      key={from ?? "new"}
      known={known.data}
      begin={definition}
      own={held.data && !held.data.ships ? { key: held.data.key, version: held.data.version } : null}
      title={held.data?.name ?? ""}
      text={held.data?.text ?? ""}
      room={held.data?.room ?? t("Estate")}
      shared={held.data && !held.data.ships ? (held.data.access as Access) : "all"}
    />
  );
}

interface FormProps {
  known: RowKind[];
  begin: Definition;
  own: { key: string; version: number } | null;
  title: string;
  text: string;
  room: string;
  shared: Access;
}

function Form({ known, begin, own, title, text, room, shared }: FormProps) {
  const rowWords = useRowWords();
  const queries = useQueryClient();
  const navigate = useNavigate();
  const [d, setD] = useState<Definition>(begin);
  const { v, field, submit, wrong, rest } = useDraft({
    name: own || !title ? title : t("{{title}}, changed", { title }),
    what: text,
    where: room,
    access: shared as Access,
  });
  const { name, what, where, access } = v;
  const [find, setFind] = useState("");
  const [all, setAll] = useState(false);
  const set = (change: Partial<Definition>) => setD({ ...d, ...change });
  const late = useDeferredValue(d);
  const [settled, setSettled] = useState(late);
  useEffect(() => {
    const timer = setTimeout(() => setSettled(late), 250);
    return () => clearTimeout(timer);
  }, [late]);
  const preview = useQuery({
    ...asksBy("/api/reports/preview", {
      body: { definition: { ...settled } as Record<string, unknown> },
    }),
    placeholderData: (before) => before,
    retry: false,
  });
  const fault = preview.error instanceof ApiProblem ? preview.error.problem : null;
  const at = (field: string) => wrong(field) ?? (fault?.field === field ? fault.detail : undefined);
  const kind = known.find((k) => k.name === d.row);
  const mine = kind?.columns ?? [];
  const label = (column: Column) =>
    column.label || column.formula || mine.find((k) => k.name === column.field)?.label || column.field;
  const key = (column: Column) => (column.formula ? column.label || column.formula : column.field);
  const wanted = find.trim().toLowerCase();
  const offered = mine.filter(
    (k) =>
      !d.columns.some((c) => c.field === k.name) &&
      (!wanted || `${k.label} ${k.name}`.toLowerCase().includes(wanted)),
  );
  const move = (i: number, by: number) => {
    const next = [...d.columns];
    const [one] = next.splice(i, 1);
    if (one) next.splice(i + by, 0, one);
    set({ columns: next });
  };
  const save = submit(async () => {
    const body = {
      name,
      text: what,
      room: where,
      access,
      definition: { ...d } as Record<string, unknown>,
      version: own?.version,
    };

    const made = own
      ? await ok(
          client.PUT("/api/reports/composed/{number}", {
            params: { path: { number: Number(own.key) } },
            body,
          }),
        )
      : await ok(client.POST("/api/reports/composed", { body }));
    toast.success(t("“{{name}}” is kept.", { name }));
    await queries.invalidateQueries();
    await navigate({ to: "/reports/$report", params: { report: made.key }, search: {} });
  });
  return (
    <form
      onSubmit={save}
      className="mx-auto grid w-full max-w-[1400px] items-start gap-4 px-4 pb-10 lg:grid-cols-[400px_1fr]"
    >
      <div>
        <h1 className="py-3.5">{own ? t("Change a report") : t("Compose a report")}</h1>
        <div className="sheet p-3.5">
          <TextField label={t("Name")} {...field("name")} wrong={at("name")} required />
          <TextField label={t("What it tells")} {...field("what")} />
          <div className="grid grid-cols-2 gap-3">
            <Choice
              label={t("A row is a")}
              value={d.row}
              set={(row) =>
                set({
                  ...EMPTY,
                  row,
                  columns: begun(known.find((k) => k.name === row)?.columns ?? []),
                  filter: d.filter,
                })
              }
              options={known.map((k) => [k.name, k.one] as const)}
              wrong={at("row")}
            />
            <Choice
              label={t("Offered in")}
              {...field("where")}
              options={[
                t("Discovery"),
                t("Estate"),
                t("Software"),
                t("Licences"),
                t("Lifecycle"),
                t("Exposure"),
              ].map((r): [string, string] => [r, r])}
              wrong={at("room")}
            />
          </div>
          <FilterField
            label={t("Of which devices")}
            value={d.filter}
            set={(filter) => set({ filter })}
            wrong={at("filter")}
            placeholder="kind = server and place = Saltholm"
            hint={t("A filter; empty: the whole register.")}
          />
          {!WHOLE_ROWS.includes(d.row) && (
            <TextField
              label={t("Which {{row}}", { row: rowWords(d.row) })}
              mono
              value={d.inner}
              set={(inner) => set({ inner })}
              wrong={at("inner")}
              placeholder={`${mine[0]?.name ?? "name"} ~ …`}
              hint={t("A condition on the row itself; empty: all.")}
            />
          )}
          {kind?.over_days && (
            <TextField
              label={t("Over how many days")}
              type="number"
              value={String(d.days)}
              set={(n) => set({ days: Number(n) || 1 })}
              wrong={at("days")}
            />
          )}
          <p className="mb-1 text-[13px] font-semibold">{t("Columns")}</p>
          <ol className="mb-1">
            {d.columns.map((c, i) => (
              <li
                key={key(c)}
                className="flex items-center gap-1 border-b border-[var(--line-2)] py-1 text-[13px]"
              >
                <span className="min-w-0 flex-1 truncate">
                  {label(c)} {c.formula && <span className="mono faint">= {c.formula}</span>}
                </span>
                <button
                  type="button"
                  className="btn btn-ghost btn-xs"
                  aria-label={t("{{c}}: earlier", { c: label(c) })}
                  disabled={i === 0}
                  onClick={() => move(i, -1)}
                >
                  ↑
                </button>
                <button
                  type="button"
                  className="btn btn-ghost btn-xs"
                  aria-label={t("{{c}}: later", { c: label(c) })}
                  disabled={i === d.columns.length - 1}
                  onClick={() => move(i, 1)}
                >
                  ↓
                </button>
                <label className="faint flex items-center gap-1 text-[12px]">
                  <input
                    type="checkbox"
                    className="checkbox checkbox-sm"
                    checked={d.group_by.includes(key(c))}
                    onChange={(e) =>
                      set({
                        group_by: e.target.checked
                          ? [...d.group_by, key(c)]
                          : d.group_by.filter((g) => g !== key(c)),
                      })
                    }
                  />
                  {t("group")}
                </label>
                <button
                  type="button"
                  className="btn btn-ghost btn-xs"
                  aria-label={t("Take {{c}} out", { c: label(c) })}
                  disabled={d.columns.length === 1}
                  onClick={() =>
                    set({
                      columns: d.columns.filter((o) => o !== c),
                      group_by: d.group_by.filter((g) => g !== key(c)),
                      totals: d.totals.filter((total) => total.column !== key(c)),
                      sort: d.sort.replace("-", "") === key(c) ? "" : d.sort,
                    })
                  }
                >
                  −
                </button>
              </li>
            ))}
          </ol>
          {at("columns") && (
            <p role="alert" className="mb-1 text-[12.5px] font-semibold text-error">
              {at("columns")}
            </p>
          )}
          <input
            type="search"
            className="input input-sm mb-1 w-full"
            placeholder={t("Find a column to add")}
            aria-label={t("Find a column to add")}
            value={find}
            onChange={(e) => setFind(e.target.value)}
          />
          <div className="mb-2 flex flex-wrap gap-1">
            {offered.slice(0, all || wanted ? 60 : FIRST).map((k) => (
              <button
                key={k.name}
                type="button"
                className="btn btn-xs"
                onClick={() => set({ columns: [...d.columns, { field: k.name, formula: "", label: "" }] })}
              >
                + {k.label}
              </button>
            ))}
            {!all && !wanted && offered.length > FIRST && (
              <button
                type="button"
                className="link-quiet text-[12.5px] font-semibold"
                onClick={() => setAll(true)}
              >
                {t("{{offered}} more", { offered: offered.length - FIRST })}
              </button>
            )}
          </div>
          <Reckoned add={(column) => set({ columns: [...d.columns, column] })} />
          <div className="grid grid-cols-2 gap-3">
            <Choice
              label={t("Sorted by")}
              value={d.sort}
              set={(sort) => set({ sort })}
              options={[
                ["", "name"],
                ...d.columns.flatMap((c): [string, string][] => [
                  [key(c), t("{{c}}, lowest first", { c: label(c) })],
                  [`-${key(c)}`, t("{{c}}, highest first", { c: label(c) })],
                ]),
              ]}
              wrong={at("sort")}
            />
            <Choice
              label={t("Add a figure")}
              value=""
              set={(chosen) => {
                const [fn, ...rest_] = chosen.split(" ");
                if (fn)
                  set({
                    totals: [...d.totals, { function: fn as Total["function"], column: rest_.join(" ") }],
                  });
              }}
              options={[
                ["", "choose"],
                ...d.columns.flatMap((c): [string, string][] =>
                  (["count", "distinct", "sum", "mean", "min", "max"] as const).map((f) => [
                    `${f} ${key(c)}`,
                    t("{{f}} of {{c}}", { f, c: label(c) }),
                  ]),
                ),
              ]}
              wrong={at("totals")}
            />
          </div>
          {d.totals.length > 0 && (
            <p className="mb-2 flex flex-wrap gap-1">
              {d.totals.map((total) => (
                <button
                  key={`${total.function} ${total.column}`}
                  type="button"
                  className="tag"
                  aria-label={t("Take {{function}} of {{column}} away", {
                    function: total.function,
                    column: total.column,
                  })}
                  onClick={() => set({ totals: d.totals.filter((o) => o !== total) })}
                >
                  {t("{{function}} of {{column}} ×", { function: total.function, column: total.column })}
                </button>
              ))}
            </p>
          )}
          {d.row === "asset" && (
            <Details
              known={known}
              details={d.details}
              set={(details) => set({ details })}
              wrong={at("details") ?? at("inner")}
            />
          )}
          <AccessChoice {...field("access")} wrong={at("access")} />
          {rest}
          <div className="mt-2 flex gap-2">
            <span className="flex-1" />
            <button type="button" className="btn" onClick={() => window.history.back()}>
              {t("Leave")}
            </button>
            <button type="submit" className="btn btn-primary">
              {t("Keep the report")}
            </button>
          </div>
        </div>
      </div>
      <div className="min-w-0 lg:pt-3.5">
        <p className="dim pb-2 text-[13.5px]" aria-live="polite">
          {fault ? (
            <span className="font-semibold text-error">{fault.detail}</span>
          ) : (
            <>
              <b className="text-base-content">{t("The first rows")}</b>
              {preview.data && ` — ${preview.data.sentence}`}
            </>
          )}
        </p>
        {preview.data && <Lines report={preview.data} at={undefined} name="Preview" />}
        {preview.data?.lines.filter((l) => l.kind === "row").length === 0 && !fault && (
          <p className="dim py-4 text-[13px]">{t("No row answers. Widen the question.")}</p>
        )}
      </div>
    </form>
  );
}
