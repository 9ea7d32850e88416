import { lazy, Suspense, useEffect, useRef, useState } from "react";
import { ApiProblem } from "../../api/client";

const Editor = lazy(() => import("./AskEditor"));

interface Props {
  value: string;
  error: unknown;
  submit: (text: string) => void;
}

/** Where a filter is typed. The editor loads behind a plain input, so that the page can be used at once. */
export function AskLine({ value, error, submit }: Props) {
  const [text, setText] = useState(value);
  useEffect(() => setText(value), [value]);
  const problem = error instanceof ApiProblem && error.problem.start !== undefined ? error.problem : null;
  const range = problem ? { from: problem.start ?? 0, to: problem.end ?? 0 } : null;
  // Whoever was typing into the plain input goes on in the editor when it has come.
  const typing = useRef(false);
  const plain = (
    <input
      className="mono w-full bg-transparent py-[6px] text-[13.5px] outline-none"
      aria-label="Ask the register"
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
            Clear
          </button>
        )}
        <button type="button" className="btn btn-xs btn-primary" onClick={() => submit(text.trim())}>
          Ask
        </button>
      </div>
      {problem && (
        <p role="alert" className="mt-1 px-1 text-[13px] font-semibold text-error">
          {problem.detail}
          {problem.tries?.map((t) => (
            <button
              key={t}
              type="button"
              className="link-quiet ml-2"
              onClick={() => submit(text.slice(0, problem.start) + t + text.slice(problem.end))}
            >
              Use {t}
            </button>
          ))}
        </p>
      )}
    </div>
  );
}
