import { lazy, Suspense, useEffect, useRef, useState } from "react";
import { ApiProblem, client, ok } from "../../api/client";
import { t } from "../../words";
import { sayRefused } from "../refusal";
import { type Pasted, PastedNote } from "./PastedNote";

const Editor = lazy(() => import("./AskEditor"));

interface Props {
  value: string;
  error: unknown;
  submit: (text: string) => void;
  /** Asks for devices in the order they were pasted in; where it is left out, as for any others. */
  given?: (filter: string) => void;
}

/** Return the first cell of each line of a text of several lines; none of one line, which is typed on with. */
export function column(text: string): string[] {
  const lines = text.split(/\r?\n/).map((l) => (l.split("\t")[0] ?? "").trim());
  const words = lines.filter(Boolean);
  return words.length > 1 ? words : [];
}

/** Where a filter is typed. The editor loads behind a plain input, so that the page can be used at once. */
export function AskLine({ value, error, submit, given = submit }: Props) {
  const [pasted, setPasted] = useState<(Pasted & { asked: string }) | null>(null);
  const paste = async (words: string[]) => {
    try {
      const found = await ok(client.POST("/api/register/pasted", { body: { words } }));
      const asked = found.numbers.length ? `number in (${found.numbers.join(", ")})` : value;
      setPasted({ ...found, asked });
      if (asked !== value) given(asked);
    } catch (refused) {
      sayRefused(refused, t("It could not be looked up."));
    }
  };
  const [text, setText] = useState(value);
  useEffect(() => setText(value), [value]);
  const problem = error instanceof ApiProblem && error.problem.start !== undefined ? error.problem : null;
  const range = problem ? { from: problem.start ?? 0, to: problem.end ?? 0 } : null;
  // Whoever was typing into the plain input goes on in the editor when it has come.
  const typing = useRef(false);
  const plain = (
    <input
      className="mono w-full bg-transparent py-[6px] text-[13.5px] outline-none"
      aria-label={t("Ask the register")}
      value={text}
      onChange={(e) => setText(e.target.value)}
      onFocus={() => {
        typing.current = true;
      }}
      onBlur={() => {
        typing.current = false;
      }}
      onKeyDown={(e) => e.key === "Enter" && submit(text.trim())}
    />
  );
  return (
    <div>
      <div
        data-ask-line
        onPasteCapture={(e) => {
          const words = column(e.clipboardData.getData("text/plain"));
          if (words.length === 0) return;
          e.preventDefault();
          e.stopPropagation();
          void paste(words);
        }}
        className={`flex min-h-[36px] items-center gap-2.5 rounded-[9px] border-[1.5px] bg-base-100 px-3 ${
          problem ? "border-error" : "border-info"
        }`}
      >
        <b className="mono text-info" aria-hidden="true">
          ?
        </b>
        <div className="min-w-0 flex-1">
          <Suspense fallback={plain}>
            <Editor text={text} change={setText} submit={submit} wrong={range} focus={typing} />
          </Suspense>
        </div>
        {text !== "" && (
          <button
            type="button"
            className="faint text-[12.5px] hover:underline"
            onClick={() => {
              setText("");
              submit("");
            }}
          >
            {t("Clear")}
          </button>
        )}
        <button type="button" className="btn btn-xs btn-primary" onClick={() => submit(text.trim())}>
          {t("Ask")}
        </button>
      </div>
      {pasted?.asked === value && <PastedNote pasted={pasted} close={() => setPasted(null)} />}
      {problem && (
        <p role="alert" className="mt-1 px-1 text-[13px] font-semibold text-error">
          {problem.detail}
          {problem.tries?.map((word) => (
            <button
              key={word}
              type="button"
              className="link-quiet ml-2"
              onClick={() => submit(text.slice(0, problem.start) + word + text.slice(problem.end))}
            >
              {t("Use {{word}}", { word })}
            </button>
          ))}
        </p>
      )}
    </div>
  );
}
