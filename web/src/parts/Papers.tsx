import { useQuery, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { toast } from "sonner";
import { asksOpen, under } from "../api/asking";
import { ApiProblem, client, ok, postForm, type Schemas } from "../api/client";
import { t } from "../words";
import { useDial } from "./dial";
import { bytes, moment } from "./format";
import { useMay } from "./me";
import { Section } from "./Section";

type Paper = Schemas["PaperOut"];

/** Notes and files that people keep with an asset. */
export function PapersSection({ asset }: { asset: number }) {
  return <Papers path={`/api/assets/${asset}/papers`} />;
}

/** Notes and files that people keep with something; `path` is the call that lists them, and takes more. */
export function Papers({ path }: { path: string }) {
  const { at } = useDial();
  const may = useMay("keep") && !at;
  const queries = useQueryClient();
  const [text, setText] = useState("");
  const [file, setFile] = useState<File | null>(null);
  const [fault, setFault] = useState("");
  const kept = useQuery(asksOpen<Paper[]>(path, { as_of: at }));
  const again = () => queries.invalidateQueries(under(path));
  const say = (error: unknown) =>
    setFault(error instanceof ApiProblem ? error.problem.detail : t("It could not be kept."));
  const keep = async (event: React.FormEvent<HTMLFormElement>) => {
    event.preventDefault();
    const form = event.currentTarget;
    const body = new FormData();
    body.set("text", text);
    if (file) body.set("file", file);
    setFault("");
    try {
      await postForm(path, body);
      setText("");
      setFile(null);
      form.reset();
      await again();
    } catch (refused) {
      say(refused);
    }
  };
  const take = async (number: number) => {
    try {
      await ok(client.DELETE("/api/papers/{number}", { params: { path: { number } } }));
      toast.success(t("Taken away. The audit trail can bring it back."));
      await again();
    } catch (refused) {
      say(refused);
    }
  };
  if (!may && !kept.error && !kept.data?.length) return null;
  return (
    <Section id="papers" title={t("Notes and files")} flush>
      {kept.error && <p className="px-3.5 pb-2 text-[13px]">{kept.error.message}</p>}
      <ul className="text-[13px]">
        {kept.data?.map((p) => (
          <li key={p.id} className="flex items-baseline gap-2 border-b border-[var(--line-2)] px-3.5 py-1.5">
            <span className="min-w-0 flex-1">
              {p.file_name && (
                <a className="link-quiet font-semibold break-all" href={`/api/papers/${p.id}/file`} download>
                  {p.file_name}
                </a>
              )}
              {p.file_name && <span className="faint"> {bytes(p.size)}</span>}
              {p.text && <span className="block whitespace-pre-wrap">{p.text}</span>}
              <span className="faint block text-[12px]">
                {p.made_by}, {moment(p.made_at)}
              </span>
            </span>
            {may && (
              <button
                type="button"
                className="btn btn-ghost btn-xs"
                aria-label={t("Take away {{file_name}}", { file_name: p.file_name || p.text.slice(0, 40) })}
                onClick={() => void take(p.id)}
              >
                −
              </button>
            )}
          </li>
        ))}
      </ul>
      {may && (
        <form onSubmit={keep} className="grid gap-1.5 px-3.5 py-2.5">
          <textarea
            rows={2}
            aria-label={t("Note")}
            placeholder={t("What should stay with it …")}
            className="textarea textarea-sm w-full"
            value={text}
            onChange={(e) => setText(e.target.value)}
          />
          <div className="flex items-center gap-2">
            <input
              type="file"
              aria-label={t("File")}
              className="file-input file-input-sm min-w-0 flex-1"
              onChange={(e) => setFile(e.target.files?.[0] ?? null)}
            />
            <button type="submit" className="btn btn-sm" disabled={!text.trim() && !file}>
              {t("Keep")}
            </button>
          </div>
          {fault && (
            <p role="alert" className="text-[12.5px] font-semibold text-error">
              {fault}
            </p>
          )}
        </form>
      )}
    </Section>
  );
}
