import {
  acceptCompletion,
  autocompletion,
  type CompletionContext,
  type CompletionResult,
  completionKeymap,
  completionStatus,
} from "@codemirror/autocomplete";
import { EditorState, type Range, StateEffect, StateField } from "@codemirror/state";
import {
  Decoration,
  type DecorationSet,
  EditorView,
  keymap,
  placeholder,
  ViewPlugin,
  type ViewUpdate,
} from "@codemirror/view";
import { useEffect, useRef } from "react";
import { client, ok } from "../../api/client";
import { t } from "../../words";

interface Props {
  text: string;
  change: (text: string) => void;
  submit: (text: string) => void;
  wrong: { from: number; to: number } | null;
  focus: { current: boolean };
}

const TOKENS =
  /("(?:[^"\\]|\\.)*"?|\/(?:[^/\\]|\\.)+\/)|\b(and|or|not|no|some|in|set|count|none)\b|([a-z_][\w.]*)(?=\s*(?:!=|<=|>=|[=<>~[]|in\b|!~))|(!=|<=|>=|[=<>~])|([^\s()[\],]+)/gi;

function colours(view: EditorView): DecorationSet {
  const marks: Range<Decoration>[] = [];
  for (const found of view.state.doc.toString().matchAll(TOKENS)) {
    const kind = found[2] || found[4] ? "ask-op" : found[3] ? "ask-field" : "ask-value";
    marks.push(Decoration.mark({ class: kind }).range(found.index, found.index + found[0].length));
  }
  return Decoration.set(marks);
}

const highlighter = ViewPlugin.fromClass(
  class {
    decorations: DecorationSet;
    constructor(view: EditorView) {
      this.decorations = colours(view);
    }
    update(update: ViewUpdate) {
      if (update.docChanged) this.decorations = colours(update.view);
    }
  },
  { decorations: (plugin) => plugin.decorations },
);

const setWrong = StateEffect.define<{ from: number; to: number } | null>();
const wrongField = StateField.define<DecorationSet>({
  create: () => Decoration.none,
  update(held, transaction) {
    for (const effect of transaction.effects) {
      if (!effect.is(setWrong)) continue;
      const length = transaction.state.doc.length;
      const from = Math.min(effect.value?.from ?? 0, length);
      const to = Math.min(effect.value?.to ?? 0, length);
      if (!effect.value || from >= to) return Decoration.none;
      return Decoration.set([Decoration.mark({ class: "ask-wrong" }).range(from, to)]);
    }
    return transaction.docChanged ? Decoration.none : held;
  },
  provide: (field) => EditorView.decorations.from(field),
});

async function offers(context: CompletionContext): Promise<CompletionResult | null> {
  const text = context.state.doc.toString();
  if (!context.explicit && text === "") return null;
  const found = await ok(
    client.GET("/api/filter/complete", { params: { query: { text, cursor: context.pos } } }),
  ).catch(() => []);
  const first = found[0];
  if (!first || context.aborted) return null;
  return {
    from: first.start,
    options: found.map((o) => ({ label: o.text, detail: o.detail || o.kind })),
    filter: false,
  };
}

function leave(view: EditorView): boolean {
  if (completionStatus(view.state) !== null) return false;
  view.contentDOM.blur();
  return true;
}

/** The ask line's editor: one line, coloured, completed from the server. */
export default function AskEditor({ text, change, submit, wrong, focus }: Props) {
  const host = useRef<HTMLDivElement>(null);
  const view = useRef<EditorView | null>(null);
  const calls = useRef({ change, submit });
  calls.current = { change, submit };

  useEffect(() => {
    if (!host.current) return;
    const send = (editor: EditorView) => {
      calls.current.submit(editor.state.doc.toString().trim());
      return true;
    };
    const made = new EditorView({
      parent: host.current,
      state: EditorState.create({
        doc: text,
        extensions: [
          keymap.of([
            { key: "Tab", run: acceptCompletion },
            {
              key: "Enter",
              run: (v) => (completionStatus(v.state) === "active" && acceptCompletion(v)) || send(v),
            },
            { key: "Escape", run: leave },
            ...completionKeymap.filter((k) => k.key !== "Enter"),
          ]),
          EditorState.transactionFilter.of((change) => (change.newDoc.lines > 1 ? [] : change)),
          autocompletion({ override: [offers], icons: false, selectOnOpen: false }),
          placeholder("kind = server and memory < 16GB — or any word"),
          EditorView.contentAttributes.of({ "aria-label": t("Ask the register"), spellcheck: "false" }),
          EditorView.updateListener.of((u) => u.docChanged && calls.current.change(u.state.doc.toString())),
          highlighter,
          wrongField,
        ],
      }),
    });
    view.current = made;
    if (focus.current) {
      made.focus();
      made.dispatch({ selection: { anchor: made.state.doc.length } });
    }
    return () => made.destroy();
  }, []);

  useEffect(() => {
    const editor = view.current;
    if (editor && editor.state.doc.toString() !== text) {
      editor.dispatch({ changes: { from: 0, to: editor.state.doc.length, insert: text } });
    }
  }, [text]);

  useEffect(() => {
    view.current?.dispatch({ effects: setWrong.of(wrong) });
  }, [wrong]);

  return <div ref={host} />;
}
