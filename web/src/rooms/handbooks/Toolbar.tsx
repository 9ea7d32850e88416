import type { Editor } from "@tiptap/react";
import { useEditorState } from "@tiptap/react";
import { Menu } from "../../parts/Menu";
import { t } from "../../words";

/** What is done with the text: by pointer; each has its keys as well. */
export function Toolbar({ editor, variables }: { editor: Editor; variables: Record<string, string> }) {
  const on = useEditorState({
    editor,
    selector: ({ editor: e }) => ({
      h1: e.isActive("heading", { level: 1 }),
      h2: e.isActive("heading", { level: 2 }),
      h3: e.isActive("heading", { level: 3 }),
      bold: e.isActive("bold"),
      italic: e.isActive("italic"),
      code: e.isActive("code"),
      bullets: e.isActive("bulletList"),
      numbers: e.isActive("orderedList"),
      quote: e.isActive("blockquote"),
      link: e.isActive("link"),
      table: e.isActive("table"),
      undo: e.can().undo(),
      redo: e.can().redo(),
    }),
  });
  const go = () => editor.chain().focus();
  const ask = (words: string, before = "") => window.prompt(words, before)?.trim();
  const link = () => {
    const to = ask(t("Where does it lead?"), String(editor.getAttributes("link").href ?? "https://"));
    if (to === undefined) return;
    if (to === "") go().extendMarkRange("link").unsetLink().run();
    else go().extendMarkRange("link").setLink({ href: to }).run();
  };
  const note = () => {
    const text = ask(t("What does the note say?"));
    if (text) go().insertContent({ type: "footnote", attrs: { text } }).run();
  };
  const tools: [string, string, boolean, () => void][] = [
    [t("Heading"), "H1", on.h1, () => go().toggleHeading({ level: 1 }).run()],
    [t("Second heading"), "H2", on.h2, () => go().toggleHeading({ level: 2 }).run()],
    [t("Third heading"), "H3", on.h3, () => go().toggleHeading({ level: 3 }).run()],
    [t("Bold"), "B", on.bold, () => go().toggleBold().run()],
    [t("Italic"), "I", on.italic, () => go().toggleItalic().run()],
    [t("Code"), "code", on.code, () => go().toggleCode().run()],
    [t("List"), "• list", on.bullets, () => go().toggleBulletList().run()],
    [t("Numbered list"), "1. list", on.numbers, () => go().toggleOrderedList().run()],
    [t("Quote"), "quote", on.quote, () => go().toggleBlockquote().run()],
    [t("Link"), "link", on.link, link],
    [t("Footnote"), "note", false, note],
    [t("Page break"), t("new page"), false, () => go().insertContent({ type: "pageBreak" }).run()],
  ];
  return (
    <div role="toolbar" aria-label={t("Text")} className="flex flex-wrap items-center gap-1 pb-2">
      {tools.map(([label, shown, active, act]) => (
        <button
          key={label}
          type="button"
          title={label}
          // What is seen is part of what is heard.
          aria-label={`${shown}, ${label}`}
          aria-pressed={active}
          className={`btn btn-xs ${active ? "btn-primary" : ""}`}
          onClick={act}
        >
          {shown}
        </button>
      ))}
      <Menu label={t("Table")}>
        {(
          [
            [t("A table"), () => go().insertTable({ rows: 3, cols: 3, withHeaderRow: true }).run()],
            [t("A row below"), () => go().addRowAfter().run()],
            [t("A column at the right"), () => go().addColumnAfter().run()],
            [t("Without this row"), () => go().deleteRow().run()],
            [t("Without this column"), () => go().deleteColumn().run()],
            [t("Without the table"), () => go().deleteTable().run()],
          ] as const
        ).map(([label, act], n) => (
          <button
            key={label}
            type="button"
            disabled={n > 0 && !on.table}
            className="block w-full rounded px-2 py-1 text-left text-[13px] hover:bg-[var(--head)] disabled:opacity-40"
            onClick={act}
          >
            {label}
          </button>
        ))}
      </Menu>
      <Menu label={t("Fill in")}>
        {Object.entries(variables).map(([name, words]) => (
          <button
            key={name}
            type="button"
            className="block w-full rounded px-2 py-1 text-left text-[13px] hover:bg-[var(--head)]"
            onClick={() => go().insertContent({ type: "variable", attrs: { name } }).run()}
          >
            {words}
          </button>
        ))}
      </Menu>
      <span className="flex-1" />
      <button type="button" className="btn btn-xs" disabled={!on.undo} onClick={() => go().undo().run()}>
        {t("Undo")}
      </button>
      <button type="button" className="btn btn-xs" disabled={!on.redo} onClick={() => go().redo().run()}>
        {t("Redo")}
      </button>
    </div>
  );
}
