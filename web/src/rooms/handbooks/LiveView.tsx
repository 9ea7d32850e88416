import { useQuery } from "@tanstack/react-query";
import { type NodeViewProps, NodeViewWrapper } from "@tiptap/react";
import { useState } from "react";
import { asksBy } from "../../api/asking";
import { Problem } from "../../parts/Problem";
import { t } from "../../words";
import { FilledBlock } from "./FilledBlock";
import { LiveForm } from "./LiveForm";
import { useWriting } from "./writing";

const SHOWN = 6;

/** A live block while one writes: as it would be filled now, set and moved in its place. */
export function LiveView({ node, updateAttributes, deleteNode, selected, editor }: NodeViewProps) {
  const about = useWriting();
  const [setting, setSetting] = useState(false);
  const kind = about.kinds.find((k) => k.kind === node.attrs.kind);
  const settings = node.attrs.settings as Record<string, string | number>;
  const missing = kind?.settings.find((s) => s.needed && !settings[s.name]);
  const asked = useQuery({
    ...asksBy("/api/handbooks/fill", {
      body: { kind: String(node.attrs.kind), settings, place: about.place, handbook: about.id },
    }),
    enabled: Boolean(kind) && !missing,
    retry: false,
    staleTime: 60_000,
  });
  const title = String(settings.title || kind?.label || t("A live block"));
  return (
    <NodeViewWrapper
      className={`live my-3 rounded-r-md border-l-4 border-primary bg-[var(--head)] px-3.5 py-2 ${selected ? "outline-2 outline-accent" : ""}`}
      contentEditable={false}
    >
      <div className="flex flex-wrap items-baseline gap-x-3 pb-1 text-[13px]">
        <b className="text-primary" data-drag-handle>
          {title}
        </b>
        <span className="dim min-w-0 flex-1">{asked.data?.note ?? kind?.what}</span>
        {editor.isEditable && (
          <>
            <button type="button" className="link-quiet font-semibold" onClick={() => setSetting(true)}>
              {t("Set")}
              <span className="sr-only"> {title}</span>
            </button>
            <button type="button" className="link-quiet font-semibold" onClick={() => deleteNode()}>
              {t("Take out")}
              <span className="sr-only"> {title}</span>
            </button>
          </>
        )}
      </div>
      {missing ? (
        <p className="text-[13px] text-warning-content">
          {t("Say which {{label}}.", { label: missing.label.toLowerCase() })}
        </p>
      ) : asked.error ? (
        <Problem error={asked.error} />
      ) : asked.data ? (
        <FilledBlock filled={asked.data} most={SHOWN} />
      ) : (
        <p className="dim text-[13px]">{t("Filling …")}</p>
      )}
      {setting && kind && (
        <LiveForm
          kind={kind}
          settings={settings}
          close={() => setSetting(false)}
          keep={(next) => updateAttributes({ settings: next })}
        />
      )}
    </NodeViewWrapper>
  );
}
