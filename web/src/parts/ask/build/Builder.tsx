import { useQuery } from "@tanstack/react-query";
import { useEffect, useMemo, useRef, useState } from "react";
import { asks } from "../../../api/asking";
import { ApiProblem, client, ok } from "../../../api/client";
import type { Registry } from "../../../api/types";
import { plural } from "../../format";
import { GroupEditor } from "./GroupEditor";
import { emptyGroup, exchanged, fromTree, type Group, type Placed, toText } from "./model";

interface Props {
  value: string;
  registry: Registry;
  submit: (text: string) => void;
  close: () => void;
  /** What the button says that takes it. */
  verb?: string;
}

/** The words a part of a tree is written with, for what the builder has no form for. */
async function partTexts(tree: unknown): Promise<Map<unknown, string>> {
  const found = new Map<unknown, string>();
  const walk = async (node: unknown): Promise<void> => {
    if (Array.isArray(node)) await Promise.all(node.map(walk));
    else if (node && typeof node === "object") {
      const { is } = node as { is: string };
      if (is === "words" || is === "related") {
        const faces = await ok(
          client.POST("/api/filter", { body: { tree: node as Record<string, unknown> } }),
        );
        found.set(node, faces.text);
      } else await Promise.all(Object.values(node).map(walk));
    }
  };
  await walk(tree);
  return found;
}

/** The other view of the ask line: groups, conditions and brackets, counted while they are built. */
export function Builder({ value, registry, submit, close, verb = "Ask this" }: Props) {
  const [group, setGroup] = useState<Group | null>(null);
  const [told, setTold] = useState("");
  const last = useRef<string | null>(null);
  useEffect(() => {
    if (value === last.current) return;
    last.current = value;
    let gone = false;
    const read = async () => {
      try {
        const faces = await ok(client.POST("/api/filter", { body: { text: value } }));
        const texts = await partTexts(faces.tree);
        if (!gone) setGroup(fromTree(faces.tree, (node) => texts.get(node) ?? ""));
      } catch (error) {
        if (gone) return;
        setTold(error instanceof ApiProblem ? error.problem.detail : "The filter cannot be read.");
        setGroup(emptyGroup());
      }
    };
    void read();
    return () => {
      gone = true;
    };
  }, [value]);
  const [text, placed] = useMemo(() => {
    const where: Placed[] = [];
    return [group ? toText(group, where) : "", where] as const;
  }, [group]);
  const [asked, setAsked] = useState(text);
  useEffect(() => {
    const timer = setTimeout(() => setAsked(text), 180);
    return () => clearTimeout(timer);
  }, [text]);
  const count = useQuery({
    ...asks("/api/assets", { params: { query: { filter: asked, limit: 0 } } }),
    retry: false,
    placeholderData: (before) => before,
  });
  const sets = useQuery(asks("/api/sets"));
  if (!group) return null;
  const problem = count.error instanceof ApiProblem && text === asked ? count.error.problem : null;
  const wrong = new Map<number, string>();
  if (problem) {
    const start = problem.start ?? 0;
    // The narrowest item that holds the place of the error is the one that is wrong.
    const holding = placed.filter((p) => p.from <= start && start <= p.to);
    const at = holding.sort((a, b) => a.to - a.from - (b.to - b.from))[0];
    if (at) wrong.set(at.id, problem.detail);
  }
  return (
    <section
      className="sheet mt-2 max-h-[52vh] overflow-auto px-3 py-2"
      aria-label="Build the question"
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
            <span className="text-error">{problem.detail}</span>
          ) : count.data ? (
            plural(count.data.total, "asset")
          ) : (
            "counting …"
          )}
        </span>
        <code className="mono dim min-w-0 flex-1 truncate" title={text}>
          {text || "everything"}
        </code>
        <button type="button" className="btn btn-sm" onClick={close}>
          Close
        </button>
        <button
          type="button"
          className="btn btn-primary btn-sm"
          disabled={problem !== null}
          onClick={() => {
            last.current = text;
            submit(text);
          }}
        >
          {verb}
        </button>
      </div>
    </section>
  );
}
