import { useQuery } from "@tanstack/react-query";
import { Link, useParams } from "@tanstack/react-router";
import { useState } from "react";
import { asks } from "../../api/asking";
import { client, ok, type Schemas } from "../../api/client";
import { moment, plural } from "../../parts/format";
import { useMay, useMe } from "../../parts/me";
import { Unanswered } from "../../parts/Problem";
import { useDone } from "../../parts/Sheet";
import { t, word } from "../../words";
import { Read } from "./Read";
import type { Filled } from "./writing";

const FILES = [
  ["pdf", "PDF"],
  ["docx", "DOCX"],
  ["html", "HTML"],
  ["md", t("Markdown")],
] as const;

/** An issue: as it was filled, what differs from the one before, its files, and the word of a second person. */
export function IssuePage() {
  const number = Number((useParams({ strict: false }) as { issue: string }).issue);
  const asked = useQuery(asks("/api/handbooks/issues/{number}", { params: { path: { number } } }));
  if (asked.error || !asked.data) return <Unanswered asked={asked} what={t("Opening the issue …")} />;
  const issue = asked.data;
  return (
    <div className="mx-auto w-full max-w-[1200px] px-4 pb-10">
      <p className="dim pt-3 text-[13px]">
        <Link to="/reports" search={{ tab: "handbooks" } as never} className="link-quiet font-semibold">
          {t("Handbooks")}
        </Link>
      </p>
      <div className="flex flex-wrap items-center gap-x-3 gap-y-1 pt-1 pb-3">
        <h1>{t("{{title}}, no. {{number}}", { title: issue.title, number: issue.number })}</h1>
        <span className={`tag ${issue.state === "issued" ? "ok" : issue.state === "asked" ? "warn" : "bad"}`}>
          {issue.state === "asked" ? t("waits for approval") : word(issue.state)}
        </span>
        <span className="dim text-[13px]">
          {t("as of {{at}}, asked for by {{asked_by}}{{decided_by}}{{why}}", {
            at: moment(issue.at),
            asked_by: issue.asked_by,
            decided_by:
              issue.decided_by &&
              t(", {{which}} by {{decided_by}}", {
                which: issue.state === "issued" ? t("approved") : t("refused"),
                decided_by: issue.decided_by,
              }),
            why: issue.why && `: ${issue.why}`,
          })}
        </span>
        <span className="flex-1" />
        {FILES.map(([key, label]) => (
          <a key={key} className="btn btn-sm" href={`/api/handbooks/issues/${issue.id}/${key}`} download>
            {label}
          </a>
        ))}
      </div>
      {issue.state === "asked" && <Decision issue={issue} />}
      <div className="grid gap-5 lg:grid-cols-[minmax(0,1fr)_320px]">
        <article className="sheet px-7 py-6 md:px-10" aria-label={t("The issue")}>
          <Read
            document={issue.document}
            filled={issue.filled as Record<string, Filled>}
            variables={issue.variables}
          />
        </article>
        <Differences changes={issue.changes} first={issue.number === 1} />
      </div>
    </div>
  );
}

function Decision({ issue }: { issue: Schemas["IssueOut"] }) {
  const may = useMay("plan");
  const me = useMe().data;
  const done = useDone("handbooks");
  const [why, setWhy] = useState("");
  if (!may || me?.username === issue.asked_by)
    return (
      <p className="tag warn mb-3 !whitespace-normal">
        {t("It waits for a second person, a manager at least.")}
      </p>
    );
  const decide = (approve: boolean) =>
    done(
      () =>
        ok(
          client.POST("/api/handbooks/issues/{number}/decision", {
            params: { path: { number: issue.id } },
            body: { approve, why },
          }),
        ),
      approve
        ? t("No. {{number}} is issued.", { number: issue.number })
        : t("No. {{number}} is refused.", { number: issue.number }),
    );
  return (
    <div className="sheet mb-3 flex flex-wrap items-center gap-2 px-3.5 py-2.5">
      <input
        className="input input-sm min-w-0 flex-1"
        aria-label={t("Why")}
        placeholder={t("a word on it")}
        value={why}
        onChange={(e) => setWhy(e.target.value)}
      />
      <button type="button" className="btn btn-sm" onClick={() => void decide(false)}>
        {t("Refuse")}
      </button>
      <button type="button" className="btn btn-sm btn-primary" onClick={() => void decide(true)}>
        {t("Approve")}
      </button>
    </div>
  );
}

function Differences({ changes, first }: { changes: Schemas["Difference"][]; first: boolean }) {
  return (
    <aside className="text-[13px]" aria-label={t("What differs from the issue before")}>
      <h2 className="pb-1.5 text-[14px] font-semibold">
        {first
          ? t("The first issue")
          : t("What differs from the issue before: {{things}}", { things: plural(changes.length, "thing") })}
      </h2>
      <ul className="grid gap-1.5">
        {changes.slice(0, 200).map((c) => (
          <li key={`${c.where}${c.before}${c.after}`} className="sheet px-3 py-1.5">
            <span className="dim block text-[12px]">
              {c.where || t("at the beginning")}
              {c.what === "row" && t(", a row")}
            </span>
            {c.before && <del className="block text-error">{c.before}</del>}
            {c.after && <ins className="block no-underline">{c.after}</ins>}
          </li>
        ))}
      </ul>
    </aside>
  );
}
