import { mergeAttributes, Node } from "@tiptap/core";
import { ReactNodeViewRenderer } from "@tiptap/react";
import { t } from "../../words";
import { LiveView } from "./LiveView";
import { PartView, PictureView } from "./OtherViews";

/** A block that is filled afresh whenever the handbook is issued. */
export const Live = Node.create({
  name: "live",
  group: "block",
  atom: true,
  draggable: true,
  addAttributes: () => ({ key: { default: "" }, kind: { default: "" }, settings: { default: {} } }),
  parseHTML: () => [
    {
      tag: "div[data-live]",
      getAttrs: (element) => ({
        key: crypto.randomUUID().slice(0, 8),
        kind: element.getAttribute("data-live"),
        settings: JSON.parse(element.getAttribute("data-settings") ?? "{}") as object,
      }),
    },
  ],
  renderHTML: ({ node }) => [
    "div",
    { "data-live": node.attrs.kind as string, "data-settings": JSON.stringify(node.attrs.settings) },
  ],
  addNodeView: () => ReactNodeViewRenderer(LiveView),
});

/** Another handbook's document in this place. */
export const Part = Node.create({
  name: "part",
  group: "block",
  atom: true,
  draggable: true,
  addAttributes: () => ({ handbook: { default: 0 } }),
  parseHTML: () => [{ tag: "div[data-part]" }],
  renderHTML: ({ HTMLAttributes }) => ["div", mergeAttributes({ "data-part": "" }, HTMLAttributes)],
  addNodeView: () => ReactNodeViewRenderer(PartView),
});

/** A picture that is kept with the handbook. */
export const Picture = Node.create({
  name: "picture",
  group: "block",
  atom: true,
  draggable: true,
  addAttributes: () => ({ paper: { default: 0 }, words: { default: "" } }),
  parseHTML: () => [{ tag: "div[data-picture]" }],
  renderHTML: ({ HTMLAttributes }) => ["div", mergeAttributes({ "data-picture": "" }, HTMLAttributes)],
  addNodeView: () => ReactNodeViewRenderer(PictureView),
});

export const PageBreak = Node.create({
  name: "pageBreak",
  group: "block",
  atom: true,
  parseHTML: () => [{ tag: "hr[data-break]" }],
  renderHTML: () => ["hr", { "data-break": "", class: "page-break", title: t("a new page begins here") }],
});

/** A note whose text stands at the end. */
export const Footnote = Node.create({
  name: "footnote",
  group: "inline",
  inline: true,
  atom: true,
  addAttributes: () => ({ text: { default: "" } }),
  parseHTML: () => [{ tag: "sup[data-note]" }],
  renderHTML: ({ node }) => [
    "sup",
    { "data-note": "", class: "note", title: node.attrs.text as string },
    `(${(node.attrs.text as string).slice(0, 24)})`,
  ],
});

/** What is filled in within a line when the handbook is issued. */
export const Variable = Node.create({
  name: "variable",
  group: "inline",
  inline: true,
  atom: true,
  addAttributes: () => ({ name: { default: "date" } }),
  parseHTML: () => [{ tag: "span[data-variable]" }],
  renderHTML: ({ node }) => [
    "span",
    { "data-variable": "", class: "variable", title: t("filled in when it is issued") },
    node.attrs.name as string,
  ],
});
