import { useQuery } from "@tanstack/react-query";
import { Link } from "@tanstack/react-router";
import { type NodeViewProps, NodeViewWrapper } from "@tiptap/react";
import { asks } from "../../api/asking";
import { t } from "../../words";

const FRAME = "live my-3 rounded-r-md border-l-4 border-base-300 bg-[var(--head)] px-3.5 py-2 text-[13px]";

/** Another handbook in this one, by its name. */
export function PartView({ node, deleteNode }: NodeViewProps) {
  const asked = useQuery(asks("/api/handbooks"));
  const held = asked.data?.handbooks.find((h) => h.id === node.attrs.handbook);
  return (
    <NodeViewWrapper className={FRAME} contentEditable={false}>
      <span className="flex items-baseline gap-3">
        <span className="flex-1" data-drag-handle>
          {t("Here stands")}{" "}
          {held ? (
            <Link
              to="/handbooks/$handbook"
              params={{ handbook: String(held.id) }}
              search={{}}
              className="link-quiet font-semibold"
            >
              {held.name}
            </Link>
          ) : (
            t("a handbook that is not there any more")
          )}
        </span>
        <button type="button" className="link-quiet font-semibold" onClick={() => deleteNode()}>
          {t("Take out")}
        </button>
      </span>
    </NodeViewWrapper>
  );
}

/** A picture with its words, which can be changed in place. */
export function PictureView({ node, updateAttributes, deleteNode }: NodeViewProps) {
  return (
    <NodeViewWrapper className={FRAME} contentEditable={false}>
      <img
        src={`/api/papers/${node.attrs.paper}/file`}
        alt={String(node.attrs.words)}
        className="max-h-80 max-w-full"
      />
      <span className="mt-1.5 flex items-center gap-3">
        <input
          className="input input-sm flex-1"
          aria-label={t("Words under the picture")}
          placeholder={t("words under the picture")}
          value={String(node.attrs.words)}
          onChange={(e) => updateAttributes({ words: e.target.value })}
        />
        <button type="button" className="link-quiet font-semibold" onClick={() => deleteNode()}>
          {t("Take out")}
        </button>
      </span>
    </NodeViewWrapper>
  );
}
