import { useQuery } from "@tanstack/react-query";
import { Link } from "@tanstack/react-router";
import { useState } from "react";
import { asks } from "../../api/asking";
import { client, ok, type Schemas } from "../../api/client";
import { useDial } from "../../parts/dial";
import { useDraft } from "../../parts/draft";
import { TextField, Tick } from "../../parts/Form";
import { capital, day, plural } from "../../parts/format";
import { GRADES, Grade } from "../../parts/Graded";
import { useMay } from "../../parts/me";
import { Unanswered } from "../../parts/Problem";
import { t, word } from "../../words";
import { GradeTree, type Tree } from "./GradeTree";

type Policy = Schemas["PolicyOut"];

/** How findings are graded and by when each grade is to be ended; changed by rehearsing it on what is open. */
export function Grading() {
  const { at } = useDial();
  const asked = useQuery(asks("/api/exposure/policy", { params: { query: { as_of: at } } }));
  return (
    <div className="mx-auto w-full max-w-[1100px] px-4 pb-10">
      <div className="flex flex-wrap items-baseline gap-x-4 gap-y-1 pt-3.5 pb-2">
        <h1>{t("Grades and promises")}</h1>
        <span className="dim text-[13.5px]">{t("what a finding asks for, and within how many days")}</span>
        <span className="flex-1" />
        <Link to="/exposure" search={{ at, tab: "promises" }} className="btn btn-sm self-center">
          {t("Kept promises")}
        </Link>
      </div>
      {asked.error || !asked.data ? (
        <Unanswered asked={asked} what={t("Looking how findings are graded …")} />
      ) : (
        <Form key={asked.data.version} policy={asked.data} past={Boolean(at)} />
      )}
    </div>
  );
}

function Form({ policy, past }: { policy: Policy; past: boolean }) {
  const may = useMay("plan") && !past;
  const [found, setFound] = useState<Schemas["PolicyRehearsed"] | null>(null);
  const { v, set, field, tick, attempt, save, rest, wrong, busy } = useDraft(
    {
      tree: policy.tree as Tree,
      now: days(policy, "act now"),
      week: days(policy, "this week"),
      month: days(policy, "this month"),
      watch: days(policy, "watch"),
      working: policy.working,
      holidays: policy.holidays.join("\n"),
    },
    { changed: () => setFound(null) },
  );
  const number = (text: string) => (text.trim() === "" ? null : Number(text));
  const body = {
    tree: v.tree,
    days: {
      "act now": number(v.now),
      "this week": number(v.week),
      "this month": number(v.month),
      watch: number(v.watch),
    },
    working: v.working,
    holidays: v.holidays.split(/\s+/).filter(Boolean),
    version: policy.version,
  };
  const rehearse = () =>
    attempt(async () =>
      setFound(
        await ok(
          client.POST("/api/exposure/policy/rehearsal", { params: { query: {} }, body: body as never }),
        ),
      ),
    );
  const keep = save(async () => {
    await ok(client.PUT("/api/exposure/policy", { body: body as never }));
    return t("Findings are graded and promised so from now on.");
  });
  return (
    <form onSubmit={keep}>
      <p className="dim max-w-3xl pb-3 text-[13.5px]">
        {t(
          "{{which}} Every finding’s page shows which way it went. A past day keeps the grades that stood on it.",
          {
            which: policy.made_at
              ? t("As {{made_by}} left it on {{made_at}}.", {
                  made_by: policy.made_by,
                  made_at: day(policy.made_at),
                })
              : t("As it ships: after SSVC (CERT/CC), the questions asked one after the other."),
          },
        )}
      </p>
      <section className="sheet px-4 py-3" aria-label={t("The tree")}>
        <h2 className="pb-2 text-[14px] font-semibold">{t("What a finding asks for")}</h2>
        <div className="overflow-x-auto">
          <GradeTree
            tree={v.tree}
            questions={policy.questions}
            set={may ? (tree) => set({ tree }) : undefined}
          />
        </div>
        {wrong("tree") && <p className="pt-1 text-[13px] font-semibold text-error">{wrong("tree")}</p>}
        {may && (
          <button
            type="button"
            className="btn btn-sm mt-2"
            onClick={() => set({ tree: policy.shipped as Tree })}
          >
            {t("Back to the tree that ships")}
          </button>
        )}
      </section>
      <section className="sheet mt-3 px-4 py-3" aria-label={t("Promises")}>
        <h2 className="pb-2 text-[14px] font-semibold">{t("Promised within, in days")}</h2>
        <fieldset disabled={!may} className="grid gap-x-3 sm:grid-cols-4">
          <TextField
            label={t("Act now")}
            type="number"
            least={0}
            {...field("now")}
            placeholder={t("no promise")}
          />
          <TextField
            label={t("This week")}
            type="number"
            least={0}
            {...field("week")}
            placeholder={t("no promise")}
          />
          <TextField
            label={t("This month")}
            type="number"
            least={0}
            {...field("month")}
            placeholder={t("no promise")}
          />
          <TextField
            label={t("Watch")}
            type="number"
            least={0}
            {...field("watch")}
            placeholder={t("no promise")}
          />
        </fieldset>
        <fieldset disabled={!may}>
          <Tick
            label={t("Only working days count: Monday to Friday, and not the days off below")}
            {...tick("working")}
          />
          {v.working && (
            <TextField
              label={t("Days off")}
              rows={3}
              mono
              {...field("holidays")}
              placeholder={"2026-12-25\n2026-12-26"}
              hint={t("A day a line.")}
            />
          )}
        </fieldset>
        {wrong("days") && <p className="text-[13px] font-semibold text-error">{wrong("days")}</p>}
      </section>
      {rest}
      {may && (
        <div className="flex flex-wrap items-center gap-2 pt-3">
          <button type="button" className="btn" onClick={() => void rehearse()} disabled={busy}>
            {t("Rehearse on what is open")}
          </button>
          <button type="submit" className="btn btn-primary" disabled={busy}>
            {t("Save")}
          </button>
          <span className="faint text-[12.5px]">{t("a rehearsal changes nothing")}</span>
        </div>
      )}
      {found && <Rehearsed found={found} />}
    </form>
  );
}

const days = (policy: Policy, grade: string) => {
  const held = policy.days[grade];
  return held === null || held === undefined ? "" : String(held);
};

function Rehearsed({ found }: { found: Schemas["PolicyRehearsed"] }) {
  return (
    <section className="sheet mt-3 px-4 py-3 text-[13.5px]" aria-label={t("Rehearsal")} aria-live="polite">
      <table className="table-sm">
        <thead>
          <tr className="dim text-left">
            <th className="pr-6 font-semibold">{t("Open findings")}</th>
            {GRADES.map((g) => (
              <th key={g} className="pr-6 font-semibold">
                {capital(word(g))}
              </th>
            ))}
            <th className="font-semibold">{t("Late")}</th>
          </tr>
        </thead>
        <tbody>
          {(
            [
              [t("as it is"), found.before, found.late_before],
              [t("as it would be"), found.after, found.late_after],
            ] as const
          ).map(([words, told, late]) => (
            <tr key={words}>
              <td className="pr-6">{words}</td>
              {GRADES.map((g) => (
                <td key={g} className="pr-6 tabular-nums">
                  {told[g] ?? 0}
                </td>
              ))}
              <td className="tabular-nums">{late}</td>
            </tr>
          ))}
        </tbody>
      </table>
      <ul className="pt-2">
        {found.moved.length === 0 && <li className="dim">{t("No finding would be graded otherwise.")}</li>}
        {found.moved.map((m) => (
          <li key={`${m.before} ${m.after}`}>
            {t("{{findings}} would move from", { findings: plural(m.findings, "finding") })}{" "}
            <Grade grade={m.before} /> {t("to")} <Grade grade={m.after} />
          </li>
        ))}
      </ul>
    </section>
  );
}
