import { useQuery } from "@tanstack/react-query";
import { useEffect, useRef, useState } from "react";
import { asks, asksBy } from "../../../api/asking";
import { ApiProblem, client, ok } from "../../../api/client";
import type { Registry } from "../../../api/types";
import { t } from "../../../words";
import { plural } from "../../format";
import { sayRefused } from "../../refusal";
import { GroupEditor } from "./GroupEditor";
import { emptyGroup, exchanged, type Group } from "./model";

const NOTHING = emptyGroup();

interface Props {
  value: string;
  registry: Registry;
  submit: (text: string) => void;
  close: () => void;
  /** What the button says that takes it. */
  verb?: string;
}

/** The other view of the ask line: groups, conditions and brackets, counted while they are built. */
export function Builder({ value, registry, submit, close, verb = t("Ask this") }: Props) {
  const [group, setGroup] = useState<Group | null>(null);
  const [told, setTold] = useState("");
  const last = useRef<string | null>(null);
  useEffect(() => {
    if (value === last.current) return;
    last.current = value;
    let gone = false;
    const read = async () => {
      try {
        const draft = await ok(client.POST("/api/filter/draft", { body: { text: value } }));
        if (!gone) setGroup(draft);
      } catch (error) {
        if (gone) return;
        setTold(error instanceof ApiProblem ? error.problem.detail : t("The filter cannot be read."));
        setGroup(emptyGroup());
      }
    };
    void read();
    return () => {
      gone = true;
    };
  }, [value]);
  const [settled, setSettled] = useState(group);
  useEffect(() => {
    const timer = setTimeout(() => setSettled(group), 180);
    return () => clearTimeout(timer);
  }, [group]);
  const faces = useQuery({
    ...asksBy("/api/filter/written", { body: settled ?? NOTHING }),
    enabled: settled !== null,
    retry: false,
    placeholderData: (before) => before,
  });
  const text = faces.data?.text ?? "";
  const problems = faces.data?.problems ?? [];
  const asked = useQuery({
    ...asks("/api/assets", { params: { query: { filter: text, limit: 0 } } }),
    enabled: faces.data !== undefined && problems.length === 0,
    retry: false,
    placeholderData: (before) => before,
  });
  const sets = useQuery(asks("/api/sets"));
  if (!group) return null;
  const wrong = new Map(problems.map((p) => [p.id, p.detail]));
  const refused = faces.error ?? asked.error;
  const problem =
    problems.find((p) => p.id === group.id)?.detail ??
    (problems.length > 0
      ? t("Not to be asked yet: {{conditions}} above.", { conditions: plural(problems.length, "condition") })
      : null) ??
    (refused instanceof ApiProblem
      ? refused.problem.detail
      : refused && t("The question was not counted: no answer came."));
  const take = async () => {
    try {
      const written = await ok(client.POST("/api/filter/written", { body: group }));
      if (written.problems.length > 0) return; // said beside the item
      last.current = written.text;
      submit(written.text);
    } catch (error) {
      sayRefused(error, t("The question was not asked: no answer came."));
    }
  };
  return (
    <section
      className="sheet mt-2 max-h-[52vh] overflow-auto px-3 py-2"
      aria-label={t("Build the question")}
      data-builder
    >
      {told && <p className="tag warn mb-2">{told}</p>}
      <GroupEditor
        group={group}
        fields={registry.fields}
        registry={registry}
        sets={(sets.data ?? []).map((s) => s.name)}
        wrong={wrong}
        top
        change={(id, made) => {
          setTold("");
          setGroup(id === group.id ? ((made as Group | null) ?? emptyGroup()) : exchanged(group, id, made));
        }}
      />
      <div className="mt-2 flex flex-wrap items-center gap-3 text-[13px]">
        <span role="status" className="font-semibold">
          {problem ? (
            <span className="text-error">{problem}</span>
          ) : asked.data ? (
            plural(asked.data.total, "asset")
          ) : (
            t("counting …")
          )}
        </span>
        <code className="mono dim min-w-0 flex-1 truncate" title={text}>
          {problems.length > 0 ? "…" : text || t("everything")}
        </code>
        <button type="button" className="btn btn-sm" onClick={close}>
          {t("Close")}
        </button>
        <button
          type="button"
          className="btn btn-primary btn-sm"
          disabled={Boolean(problem)}
          onClick={() => void take()}
        >
          {verb}
        </button>
      </div>
    </section>
  );
}
