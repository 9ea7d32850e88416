import type { ReactNode } from "react";
import { t } from "../../words";
import "./prose.css";
import { FilledBlock } from "./FilledBlock";
import type { Filled } from "./writing";

interface Node {
  type: string;
  text?: string;
  attrs?: Record<string, unknown>;
  marks?: { type: string; attrs?: { href?: string } }[];
  content?: Node[];
}

interface Props {
  document: unknown;
  filled: Record<string, Filled>;
  variables: Record<string, string>;
}

/** An issue as it is read: what it was filled with, and nothing that can be changed. */
export function Read({ document, filled, variables }: Props) {
  const notes: string[] = [];
  const inner = (node: Node): ReactNode => node.content?.map((child, n) => draw(child, n));
  const draw = (node: Node, n: number): ReactNode => {
    switch (node.type) {
      case "text":
        return <span key={n}>{marked(node)}</span>;
      case "hardBreak":
        return <br key={n} />;
      case "variable":
        return <span key={n}>{variables[String(node.attrs?.name)]}</span>;
      case "footnote":
        notes.push(String(node.attrs?.text));
        return <sup key={n}>{notes.length}</sup>;
      case "heading": {
        const level = Number(node.attrs?.level ?? 2);
        if (level === 1) return <h2 key={n}>{inner(node)}</h2>;
        return level === 2 ? <h3 key={n}>{inner(node)}</h3> : <h4 key={n}>{inner(node)}</h4>;
      }
      case "bulletList":
        return <ul key={n}>{inner(node)}</ul>;
      case "orderedList":
        return (
          <ol key={n} start={Number(node.attrs?.start ?? 1)}>
            {inner(node)}
          </ol>
        );
      case "listItem":
        return <li key={n}>{inner(node)}</li>;
      case "blockquote":
        return <blockquote key={n}>{inner(node)}</blockquote>;
      case "table":
        return (
          <table key={n}>
            <tbody>{inner(node)}</tbody>
          </table>
        );
      case "tableRow":
        return <tr key={n}>{inner(node)}</tr>;
      case "tableHeader":
        return <th key={n}>{inner(node)}</th>;
      case "tableCell":
        return <td key={n}>{inner(node)}</td>;
      case "pageBreak":
        return <hr key={n} className="page-break" title={t("a new page begins here")} />;
      case "picture":
        return (
          <figure key={n}>
            <img src={`/api/papers/${node.attrs?.paper}/file`} alt={String(node.attrs?.words ?? "")} />
            <figcaption className="dim text-[13px]">{String(node.attrs?.words ?? "")}</figcaption>
          </figure>
        );
      case "live": {
        const held = filled[String(node.attrs?.key)];
        return (
          <section
            key={n}
            className="my-3 rounded-r-md border-l-4 border-primary bg-[var(--head)] px-3.5 py-2"
          >
            <p className="!my-0 flex flex-wrap items-baseline gap-x-3 pb-1 text-[13px]">
              <b className="text-primary">{held?.title}</b>
              <span className="dim">{held?.note}</span>
            </p>
            {held ? (
              <FilledBlock filled={held} />
            ) : (
              <p className="text-error">{t("This block was not filled.")}</p>
            )}
          </section>
        );
      }
      default:
        return <p key={n}>{inner(node)}</p>;
    }
  };
  const body = (document as Node).content?.map((node, n) => draw(node, n));
  return (
    <div className="prose-handbook">
      {body}
      {notes.length > 0 && (
        <ol className="dim border-t border-base-300 pt-2 text-[13px]">
          {notes.map((text) => (
            <li key={text}>{text}</li>
          ))}
        </ol>
      )}
    </div>
  );
}

function marked(node: Node): ReactNode {
  let out: ReactNode = node.text;
  for (const mark of node.marks ?? []) {
    if (mark.type === "bold") out = <strong>{out}</strong>;
    else if (mark.type === "italic") out = <em>{out}</em>;
    else if (mark.type === "code") out = <code>{out}</code>;
    else if (mark.type === "link")
      out = (
        <a href={mark.attrs?.href} rel="noreferrer" className="link-quiet">
          {out}
        </a>
      );
  }
  return out;
}
