import { TableKit } from "@tiptap/extension-table";
import { EditorContent, type JSONContent, useEditor } from "@tiptap/react";
import StarterKit from "@tiptap/starter-kit";
import { useEffect, useState } from "react";
import { postForm, type Schemas } from "../../api/client";
import { sayRefused } from "../../parts/refusal";
import { t } from "../../words";
import "./prose.css";
import { Footnote, Live, PageBreak, Part, Picture, Variable } from "./nodes";
import { Toolbar } from "./Toolbar";
import { Writing } from "./writing";

type Handbook = Schemas["HandbookOut"];

interface Props {
  handbook: Handbook;
  others: { id: number; name: string }[];
  changed: (document: JSONContent) => void;
}

const EXTENSIONS = [
  StarterKit.configure({
    heading: { levels: [1, 2, 3] },
    codeBlock: false,
    horizontalRule: false,
    strike: false,
    underline: false,
    link: { openOnClick: false, protocols: ["http", "https", "mailto", "tel"] },
  }),
  TableKit.configure({ table: { resizable: false } }),
  Live,
  Part,
  Picture,
  PageBreak,
  Footnote,
  Variable,
];

/** The document as it is written, and what is put into it. */
export function Editor({ handbook, others, changed }: Props) {
  const [sought, setSought] = useState("");
  const editor = useEditor({
    extensions: EXTENSIONS,
    content: handbook.document as JSONContent,
    editorProps: { attributes: { class: "prose-handbook", "aria-label": t("The handbook") } },
    onUpdate: ({ editor: e }) => changed(e.getJSON()),
  });
  useEffect(() => () => editor?.destroy(), [editor]);
  if (!editor) return null;
  const put = (content: JSONContent) => editor.chain().focus().insertContent(content).run();
  const live = (kind: string) =>
    put({ type: "live", attrs: { key: crypto.randomUUID().slice(0, 8), kind, settings: {} } });
  const picture = async (file: File) => {
    const body = new FormData();
    body.set("file", file);
    try {
      const kept = await postForm<{ id: number }[]>(`/api/papers-of/handbook/${handbook.id}`, body);
      if (kept[0]) put({ type: "picture", attrs: { paper: kept[0].id, words: "" } });
    } catch (error) {
      sayRefused(error, t("The picture could not be kept."));
    }
  };
  const words = sought.trim().toLowerCase();
  const kinds = handbook.kinds.filter((k) => !words || `${k.label} ${k.what}`.toLowerCase().includes(words));
  return (
    <Writing.Provider value={{ id: handbook.id, place: handbook.place, kinds: handbook.kinds }}>
      <div className="min-w-0">
        <Toolbar editor={editor} variables={handbook.variables} />
        <div className="sheet px-7 py-6 md:px-10">
          <EditorContent editor={editor} />
        </div>
      </div>
      <aside className="text-[13px]" aria-label={t("Put in")}>
        <h2 className="pb-1.5 text-[13px] font-semibold">{t("Put in, live")}</h2>
        <input
          type="search"
          className="input input-sm mb-2 w-full"
          aria-label={t("Find a block")}
          placeholder={t("find a block; Enter puts it in")}
          value={sought}
          onChange={(e) => setSought(e.target.value)}
          onKeyDown={(e) => {
            if (e.key === "Enter" && kinds[0]) {
              e.preventDefault();
              live(kinds[0].kind);
              setSought("");
            }
          }}
        />
        <div className="grid gap-1.5">
          {kinds.map((k) => (
            <button
              key={k.kind}
              type="button"
              className="sheet px-3 py-1.5 text-left"
              onClick={() => live(k.kind)}
            >
              <b className="block font-semibold">{k.label}</b>
              <span className="dim text-[12px]">{k.what}</span>
            </button>
          ))}
          <label className="sheet cursor-pointer px-3 py-1.5">
            <b className="block font-semibold">{t("A picture")}</b>
            <span className="dim text-[12px]">{t("from a file or a phone")}</span>
            <input
              type="file"
              accept="image/*"
              className="sr-only"
              onChange={(e) => {
                const file = e.target.files?.[0];
                if (file) void picture(file);
                e.target.value = "";
              }}
            />
          </label>
          {others.length > 0 && (
            <select
              className="select select-sm"
              aria-label={t("Put in another handbook")}
              value=""
              onChange={(e) =>
                e.target.value && put({ type: "part", attrs: { handbook: Number(e.target.value) } })
              }
            >
              <option value="">{t("Another handbook …")}</option>
              {others.map((o) => (
                <option key={o.id} value={o.id}>
                  {o.name}
                </option>
              ))}
            </select>
          )}
        </div>
      </aside>
    </Writing.Provider>
  );
}
