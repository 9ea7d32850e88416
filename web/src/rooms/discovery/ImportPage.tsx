import { useQuery, useQueryClient } from "@tanstack/react-query";
import { Link, useNavigate, useParams } from "@tanstack/react-router";
import { useState } from "react";
import { toast } from "sonner";
import { asks, under } from "../../api/asking";
import { client, ok, postForm, type Schemas } from "../../api/client";
import { useDraft } from "../../parts/draft";
import { TextField } from "../../parts/Form";
import { count, plural } from "../../parts/format";
import { OrganisationChoice } from "../../parts/Organisation";
import { Problem, Waiting } from "../../parts/Problem";
import { t, word } from "../../words";
import { type Fields, MappingTable } from "./MappingTable";

type Import = Schemas["ImportOut"];
type Rehearsal = Schemas["RehearsalOut"];

/** The first step: choose a file. */
export function NewImport() {
  const navigate = useNavigate();
  const { v, field, attempt, wrong, rest, busy } = useDraft({ whose: "" });
  const { whose } = v;
  const send = async (file: File | undefined) => {
    if (!file) return;
    const body = new FormData();
    body.set("file", file);
    await attempt(async () => {
      const made = await postForm<Import>(
        whose ? `/api/imports?organisation=${whose}` : "/api/imports",
        body,
      );
      await navigate({
        to: "/discovery/imports/$import",
        params: { import: String(made.id) },
        search: {},
      });
    });
  };
  return (
    <div className="mx-auto w-full max-w-[900px] px-4 pb-10">
      <h1 className="py-3.5">{t("Devices from a file")}</h1>
      <section className="sheet px-5 py-5">
        <p className="mb-3 text-[14px]">
          {t(
            "CSV and its kin, XLSX, JSON, and the lease files of DHCP servers; any encoding and separator. Nothing is stored before you have seen, row by row, what it would do.",
          )}
        </p>
        <div className="max-w-md">
          <OrganisationChoice
            label={t("Its devices belong to")}
            {...field("whose")}
            wrong={wrong("organisation")}
          />
        </div>
        <label className="mb-1 block text-[13px] font-semibold" htmlFor="import-file">
          {t("File")}
        </label>
        <input
          id="import-file"
          type="file"
          className="file-input w-full max-w-md"
          disabled={busy}
          onChange={(e) => void send(e.target.files?.[0])}
        />
        {wrong("file") && (
          <p role="alert" className="mt-2 text-[13px] font-semibold text-error">
            {wrong("file")}
          </p>
        )}
        {rest}
        {busy && <Waiting what={t("Reading the file …")} />}
      </section>
    </div>
  );
}

/** One import: its columns beside the first rows, the rehearsal, and carrying it out. */
export function ImportPage() {
  const { import: number } = useParams({ strict: false }) as { import: string };
  const held = useQuery({
    ...asks("/api/imports/{number}", { params: { path: { number: Number(number) } } }),
    refetchInterval: (query) => (RUNNING.includes(query.state.data?.state ?? "") ? 1000 : false),
  });
  const choices = useQuery({
    ...asks("/api/sources/choices"),
    staleTime: Number.POSITIVE_INFINITY,
  });
  const error = held.error ?? choices.error;
  if (error)
    return (
      <div className="p-6">
        <Problem error={error} />
      </div>
    );
  if (!held.data || !choices.data) return <Waiting what={t("Opening the import …")} />;
  return (
    <Opened
      key={`${held.data.id} ${held.data.heading} ${RUNNING.includes(held.data.state)}`}
      held={held.data}
      choices={choices.data}
    />
  );
}

const RUNNING = ["running", "undoing"];

function Opened({ held, choices }: { held: Import; choices: Schemas["ChoicesOut"] }) {
  const { v, field, attempt, wrong, rest, busy } = useDraft({ name: held.name });
  const { name } = v;
  const [mapping, setMapping] = useState<Fields>(held.mapping as Fields);
  const [written, setWritten] = useState<Record<string, string>>(held.written);
  const [found, setFound] = useState<Rehearsal | null>(null);
  const queries = useQueryClient();
  const path = { number: held.id };
  const running = RUNNING.includes(held.state);
  const over = held.state === "done" || held.state === "undone" || running;
  const say = (more: { heading?: number; written: Record<string, string> }) =>
    ok(
      client.PUT("/api/imports/{number}", {
        params: { path },
        body: { name, mapping: mapping as Record<string, Record<string, string>>, ...more },
      }),
    );
  const rehearse = (answers = written) =>
    attempt(async () => {
      await say({ written: answers });
      setFound(await ok(client.POST("/api/imports/{number}/rehearse", { params: { path } })));
    });
  const answer = (about: string, value: string) => {
    const answers = { ...written, [about]: value };
    setWritten(answers);
    void rehearse(answers);
  };
  const headAnew = (row: string) =>
    attempt(async () => {
      const heading = Number(row);
      if (!Number.isInteger(heading) || heading < 1 || heading === held.heading) return;
      queries.setQueryData(
        asks("/api/imports/{number}", { params: { path } }).queryKey,
        await say({ heading, written }),
      );
    });
  const carryOut = () =>
    attempt(async () => {
      const done = await ok(client.POST("/api/imports/{number}/carry-out", { params: { path } }));
      queries.setQueryData(asks("/api/imports/{number}", { params: { path } }).queryKey, done);
      await queries.invalidateQueries(under("intake"));
      const waits = done.counts["waits for a person"] ?? 0;
      const taken = (done.counts.created ?? 0) + (done.counts.changed ?? 0);
      toast.success(
        t("{{rows}} taken in{{which}}.", {
          rows: plural(taken, "row"),
          which: waits ? t("; {{waits}} for a person to decide at intake", { waits }) : "",
        }),
      );
    });
  const columns = held.headings;
  const used = new Map(Object.entries(mapping).map(([target, m]) => [m.from, target]));
  const label = (target: string) => choices.targets.find((option) => option.name === target)?.label ?? target;
  const sound = found
    ? Object.values(found.counts).reduce((a, b) => a + b, 0) - (found.counts.refused ?? 0)
    : 0;
  return (
    <div className="mx-auto w-full max-w-[1440px] px-4 pb-10">
      <div className="flex flex-wrap items-center gap-3 py-3.5">
        <h1>{held.file_name}</h1>
        <span className="dim text-[13.5px]">
          {held.format.toUpperCase()}
          {held.encoding ? `, ${held.encoding}` : ""} · {plural(columns.length, "column")}
        </span>
        {over && <span className={`tag ${held.state === "done" ? "ok" : ""}`}>{word(held.state)}</span>}
        <span className="flex-1" />
        {!over && (
          <>
            <button type="button" className="btn btn-sm" disabled={busy} onClick={() => rehearse()}>
              {t("Rehearse")}
            </button>
            <button
              type="button"
              className="btn btn-primary btn-sm"
              disabled={busy || !found || sound === 0}
              onClick={carryOut}
            >
              {found ? t("Take in {{rows}}", { rows: plural(sound, "row") }) : t("Take in")}
            </button>
          </>
        )}
        {over && (
          <Link to="/discovery/intake" search={{}} className="btn btn-primary btn-sm">
            {t("Decide at intake")}
          </Link>
        )}
      </div>
      {rest}
      {wrong("file") && <Problem error={wrong("file")} />}
      {running && <Progress held={held} />}
      {over && !running && <Counts counts={held.counts} number={held.id} />}
      {found?.questions.map((q) => (
        <OpenQuestion key={q.name} question={q} set={(value) => answer(q.name, value)} />
      ))}
      <div className="grid items-start gap-3 lg:grid-cols-[minmax(340px,1fr)_1.8fr]">
        <section className="sheet px-4 py-3" aria-label={t("Columns")}>
          <TextField
            label={t("Called, as a source")}
            {...field("name")}
            hint={t("It stands beside every value it brings.")}
          />
          {["csv", "xlsx"].includes(held.format) && (
            <label className="mb-2 flex items-center gap-2 text-[13px]">
              {t("The headings stand in row")}
              <input
                type="number"
                min={1}
                max={50}
                className="input input-sm w-16"
                defaultValue={held.heading}
                disabled={busy || over}
                onBlur={(e) => void headAnew(e.target.value)}
                onKeyDown={(e) => e.key === "Enter" && void headAnew(e.currentTarget.value)}
              />
              {wrong("heading") && <span className="font-semibold text-error">{wrong("heading")}</span>}
            </label>
          )}
          <MappingTable
            targets={choices.targets}
            units={choices.units}
            fields={mapping}
            set={(fields) => {
              setMapping(fields);
              setFound(null);
            }}
            columns={columns}
            wrong={wrong("mapping")}
          />
        </section>
        <div className="grid min-w-0 gap-3">
          {found && <RehearsalTable found={found} number={held.id} />}
          <section className="sheet min-w-0 overflow-x-auto" aria-labelledby="first-title">
            <h2 id="first-title" className="dim px-3.5 pt-2.5 pb-1.5 text-[12px] font-semibold">
              {t("The first rows, as they were read")}
            </h2>
            <table className="grid-table">
              <thead>
                <tr>
                  {columns.map((c) => (
                    <th key={c}>
                      {c}
                      <span className="block font-normal text-info">
                        {used.has(c) ? label(used.get(c) ?? "") : t("not taken")}
                      </span>
                    </th>
                  ))}
                </tr>
              </thead>
              <tbody>
                {held.first.map((row, i) => (
                  <tr key={i}>
                    {columns.map((c) => (
                      <td key={c} className="whitespace-nowrap">
                        {row[c] ?? ""}
                      </td>
                    ))}
                  </tr>
                ))}
              </tbody>
            </table>
          </section>
        </div>
      </div>
    </div>
  );
}

/** How far taking in or taking back has come; it goes on when this page is left. */
function Progress({ held }: { held: Import }) {
  const of = held.total || held.progress;
  return (
    <div className="pb-3 text-[14px]" role="status">
      <p>
        {t("{{which}}: {{progress}} of {{rows}}. You can leave this page; it goes on.", {
          which: held.state === "undoing" ? t("Being taken back") : t("Being taken in"),
          progress: count(held.progress),
          rows: plural(of, "row"),
        })}
      </p>
      <progress className="progress progress-primary w-full max-w-md" value={held.progress} max={of || 1} />
    </div>
  );
}

/** Something the file leaves open, asked once for all of it. */
function OpenQuestion(props: { question: Schemas["QuestionOut"]; set: (value: string) => void }) {
  const { asks, name, choices } = props.question;
  return (
    <fieldset className="sheet mb-3 border-l-4 border-l-warning px-4 py-2.5">
      <legend className="sr-only">{name}</legend>
      <p className="text-[13.5px] font-semibold">{asks}</p>
      <div className="mt-1.5 flex flex-wrap gap-2">
        {Object.entries(choices).map(([value, means]) => (
          <button key={value} type="button" className="btn btn-sm" onClick={() => props.set(value)}>
            {means}
          </button>
        ))}
      </div>
    </fieldset>
  );
}

function Counts({ counts, number }: { counts: Record<string, number>; number: number }) {
  return (
    <p className="pb-3 text-[14px]" role="status">
      {Object.entries(counts)
        .filter(([, n]) => n > 0)
        .map(([what, n], i) => (
          <span key={what}>
            {i > 0 && " · "}
            <b className="tabular-nums">{count(n)}</b> {what}
          </span>
        ))}
      {(counts.refused ?? 0) > 0 && (
        <>
          {" · "}
          <a className="link-quiet font-semibold" href={`/api/imports/${number}/refused.csv`} download>
            {t("refused rows with reasons")}
          </a>
        </>
      )}
    </p>
  );
}

function RehearsalTable({ found, number }: { found: Rehearsal; number: number }) {
  return (
    <section className="sheet min-w-0 overflow-hidden" aria-labelledby="rehearsal-title">
      <h2 id="rehearsal-title" className="dim px-3.5 pt-2.5 pb-1 text-[12px] font-semibold">
        {t("Rehearsal: what it would do. Nothing is stored yet.")}
      </h2>
      <div className="px-3.5">
        <Counts counts={found.counts} number={number} />
      </div>
      <div className="max-h-[320px] overflow-auto">
        <table className="grid-table">
          <thead>
            <tr>
              <th className="num">{t("Row")}</th>
              <th>{t("Would be")}</th>
              <th>{t("Because")}</th>
            </tr>
          </thead>
          <tbody>
            {found.refused.map((r) => (
              <tr key={`refused-${r.row}`}>
                <td className="num">{r.row}</td>
                <td>
                  <span className="tag bad">{t("refused")}</span>
                </td>
                <td>{r.why}</td>
              </tr>
            ))}
            {found.rows
              .filter((r) => r.what !== "refused")
              .map((r) => (
                <tr key={r.row}>
                  <td className="num">{r.row}</td>
                  <td>
                    <span
                      className={`tag ${r.what === "created" ? "ok" : r.what === "matched" ? "" : "note"}`}
                    >
                      {r.what}
                    </span>
                  </td>
                  <td className="dim">{r.why}</td>
                </tr>
              ))}
          </tbody>
        </table>
      </div>
    </section>
  );
}
