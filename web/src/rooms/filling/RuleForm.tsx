import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { asks } from "../../api/asking";
import { client, ok, type Schemas } from "../../api/client";
import { FilterField } from "../../parts/ask/FilterField";
import { Dialog } from "../../parts/Dialog";
import { useDraft } from "../../parts/draft";
import { Choice, FormFoot, TextField } from "../../parts/Form";
import { plural } from "../../parts/format";
import { Table } from "../../parts/table/Table";
import { t } from "../../words";
import { type FillRule, words } from "./words";

type Rehearsal = Schemas["FillRehearsalOut"];
interface Named {
  name: string;
  label: string;
  meaning: string;
}

const TONES: Record<string, string> = { fills: "ok", pinned: "note", wrong: "bad", yields: "warn" };

const asText = (table: Record<string, string>) =>
  Object.entries(table)
    .map(([k, v]) => `${k} = ${v}`)
    .join("\n");
const asTable = (text: string) =>
  Object.fromEntries(
    text
      .split("\n")
      .map((l) => l.split(/\s*[=;\t]\s*(.*)/))
      .filter((p) => p[0]?.trim())
      .map((p) => [p[0]?.trim() ?? "", (p[1] ?? "").trim()]),
  ) as Record<string, string>;

/** Write a rule, rehearse it device by device, and only then keep it. */
export function RuleForm({ held, close }: { held: FillRule | null; close: () => void }) {
  const choices = useQuery(asks("/api/fill-rules/choices"));
  const [found, setFound] = useState<Rehearsal | null>(null);
  const { v, field, attempt, save, rest } = useDraft(
    {
      name: held?.name ?? "",
      filter: held?.filter ?? "",
      fills: held?.fills ?? "place",
      reads: held?.reads ?? "name",
      formula: held?.formula ?? "",
      pattern: held?.pattern ?? "",
      compose: held?.compose ?? "",
      when: held?.when ?? "always",
      table: asText(held?.table ?? {}),
    },
    { close, changed: () => setFound(null) },
  );
  const { table: _, ...values } = v;
  const body = { ...v, table: asTable(v.table), version: held?.version ?? 0 };
  const rehearse = () =>
    attempt(async () => {
      setFound(null);
      setFound(
        await ok(
          client.POST("/api/fill-rules/rehearse", { body: { ...body, number: held?.id ?? null, on: "" } }),
        ),
      );
    });
  const keep = save(async () => {
    if (held)
      await ok(client.PUT("/api/fill-rules/{number}", { params: { path: { number: held.id } }, body }));
    else await ok(client.POST("/api/fill-rules", { body }));
    return held
      ? t("“{{name}}” is changed.", { name: held.name })
      : t("“{{name}}” is kept, and not in force yet.", { name: values.name });
  });
  const taken = save(async () => {
    await ok(client.DELETE("/api/fill-rules/{number}", { params: { path: { number: held?.id ?? 0 } } }));
    return t("“{{name}}” is dropped.", { name: held?.name });
  });
  const drop = () => {
    if (held && window.confirm(t("Drop “{{name}}”? What it filled is taken back.", { name: held.name })))
      void taken();
  };
  const named = (list: Named[] | undefined) =>
    (list ?? []).map((n): [string, string] => [n.name, words(n.name)]);
  const meaning = (list: Named[] | undefined, name: string) => list?.find((n) => n.name === name)?.meaning;
  return (
    <Dialog title={held ? `“${held.name}”` : t("New fill rule")} close={close} wide>
      <form onSubmit={keep}>
        <div className="grid grid-cols-2 gap-x-3">
          {!held && (
            <TextField
              label={t("Name")}
              {...field("name")}
              required
              hint={t("Stands beside every value it fills.")}
            />
          )}
          <FilterField
            label={t("When an asset answers")}
            {...field("filter")}
            placeholder={t("every asset")}
            hint={t("A filter, as on the ask line.")}
          />
          <Choice
            label={t("Fill")}
            {...field("fills")}
            options={named(choices.data?.fills)}
            hint={meaning(choices.data?.fills, values.fills)}
          />
          <Choice
            label={t("From")}
            {...field("reads")}
            options={[["", "a formula"], ...named(choices.data?.reads)]}
            hint={meaning(choices.data?.reads, values.reads)}
          />
          {values.reads === "" && (
            <TextField
              label={t("Formula")}
              mono
              {...field("formula")}
              hint={t("+ - * / over fields that are numbers.")}
            />
          )}
          <TextField
            label={t("Pattern over it")}
            mono
            {...field("pattern")}
            placeholder="^([a-z]+)-"
            hint={t("A regular expression (RE2); groups may have names: (?P<site>…).")}
          />
          <TextField
            label={t("Composed as")}
            mono
            {...field("compose")}
            placeholder={t("the first group")}
            hint={t("{site}, {1}, {value} stand for what matched.")}
          />
          <TextField
            label={t("Looked up in a table")}
            rows={3}
            mono
            {...field("table")}
            placeholder={"salt = Saltholm\navrn = Port Averne"}
            hint={t("A line a value; * stands for everything else.")}
          />
          <Choice
            label={t("How often")}
            {...field("when")}
            options={Object.keys(choices.data?.when ?? {}).map((k) => [k, k] as const)}
            hint={choices.data?.when[values.when]}
          />
        </div>
        {rest}
        {found && choices.data && <Rehearsed found={found} outcomes={choices.data.outcomes} />}
        <div className="mt-2">
          <button type="button" className="btn btn-sm" onClick={() => void rehearse()}>
            {t("Rehearse")}
          </button>{" "}
          <span className="faint text-[12.5px]">{t("shows what it would do, changing nothing")}</span>
        </div>
        <FormFoot close={close} drop={held ? () => void drop() : undefined} />
      </form>
    </Dialog>
  );
}

function Rehearsed({ found, outcomes }: { found: Rehearsal; outcomes: Record<string, string> }) {
  return (
    <section aria-label={t("Rehearsal")} className="pt-1">
      <p className="pb-1 text-[13px]">
        <b>{plural(found.assets, "asset")}</b>
        {Object.entries(found.counts)
          .filter(([, n]) => n > 0)
          .map(([outcome, n]) => ` · ${n}: ${outcomes[outcome]}`)}
        {t(". Nothing is filled yet.")}
      </p>
      {found.notes.length > 0 && (
        <ul className="list-disc pb-1 pl-5 text-[13px]">
          {found.notes.map((n) => (
            <li key={n}>{n}</li>
          ))}
        </ul>
      )}
      <div className="max-h-[34vh] overflow-auto rounded border border-base-300">
        <Table
          list="rule-form"
          label={t("Rehearsal")}
          rows={found.rows}
          rowKey={(r) => r.asset}
          columns={[
            {
              key: "asset",
              label: t("Asset"),
              of: (r) => r.name,
              mono: true,
              className: "whitespace-nowrap",
            },
            { key: "it_read", label: t("It read"), of: (r) => r.read, mono: true, className: "break-words" },
            {
              key: "now",
              label: t("Now"),
              of: (r) => String(r.before ?? ""),
              cell: (r) => String(r.before ?? "–"),
            },
            {
              key: "would_be",
              label: t("Would be"),
              of: (r) => (r.value === null ? "" : String(r.value)),
              cell: (r) => (r.value === null ? "–" : String(r.value)),
            },
            {
              key: "what_comes_of_it",
              label: t("What comes of it"),
              of: (r) => `${outcomes[r.outcome]} ${r.words}`,
              cell: (r) => (
                <>
                  <span className={`tag ${TONES[r.outcome] ?? ""}`}>{outcomes[r.outcome]}</span>{" "}
                  <span className="dim">{r.words}</span>
                </>
              ),
            },
          ]}
        />
      </div>
    </section>
  );
}
