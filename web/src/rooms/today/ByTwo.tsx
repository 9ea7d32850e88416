import { count } from "../../parts/format";
import type { Answer } from "./answers";
import { inkOf, Opens } from "./Opens";

interface Props {
  answer: Answer;
  at: string | undefined;
}

/** The labels of the inner parts, in the order they are first met. */
const labelsOf = (answer: Answer) => [...new Set(answer.parts.flatMap((p) => p.parts.map((q) => q.label)))];

/** Parts of parts as bars: each as long as it is many, and divided. */
export function Stacked({ answer, at }: Props) {
  const labels = labelsOf(answer);
  const most = Math.max(1, ...answer.parts.map((p) => p.count));
  return (
    <div className="px-3.5 pb-3 text-[13px]">
      <ul className="dim flex flex-wrap gap-x-3 gap-y-0.5 pb-1 text-[12px]" aria-hidden="true">
        {labels.map((label, n) => (
          <li key={label} className="flex items-center gap-1">
            <span className="h-2.5 w-2.5 rounded-[2px]" style={{ background: inkOf(n) }} />
            {label}
          </li>
        ))}
      </ul>
      <ul>
        {answer.parts.map((part) => (
          <li
            key={part.label}
            className="grid grid-cols-[minmax(0,7rem)_minmax(0,1fr)_3rem] items-center gap-2 py-[3px]"
          >
            <span className="truncate" title={part.label}>
              {part.label}
            </span>
            <span className="flex h-3.5" style={{ width: `${Math.max(2, (100 * part.count) / most)}%` }}>
              {part.parts.map((inner) => (
                <Opens
                  key={inner.label}
                  filter={inner.filter}
                  at={at}
                  className="block h-full min-w-[3px] overflow-hidden first:rounded-l-[3px] last:rounded-r-[3px]"
                  style={{ flexGrow: inner.count, background: inkOf(labels.indexOf(inner.label)) }}
                  title={`${part.label}, ${inner.label}: ${count(inner.count)}`}
                >
                  <span className="sr-only">
                    {inner.label}: {count(inner.count)}
                  </span>
                </Opens>
              ))}
            </span>
            <Opens filter={part.filter} at={at} className="link-quiet text-right font-bold tabular-nums">
              {count(part.count)}
            </Opens>
          </li>
        ))}
      </ul>
    </div>
  );
}

/** Parts of parts as fields, the darker the more. */
export function Heat({ answer, at }: Props) {
  const labels = labelsOf(answer);
  const most = Math.max(1, ...answer.parts.flatMap((p) => p.parts.map((q) => q.count)));
  return (
    <div className="overflow-x-auto px-3.5 pb-3">
      <table className="w-full border-separate border-spacing-[3px] text-[12.5px]">
        <thead>
          <tr>
            <td />
            {labels.map((label) => (
              <th key={label} scope="col" className="dim px-1 text-center font-normal">
                {label}
              </th>
            ))}
          </tr>
        </thead>
        <tbody>
          {answer.parts.map((part) => (
            <tr key={part.label}>
              <th scope="row" className="max-w-32 truncate pr-2 text-left font-normal" title={part.label}>
                {part.label}
              </th>
              {labels.map((label) => {
                const inner = part.parts.find((p) => p.label === label);
                const share = inner ? 0.12 + (0.43 * inner.count) / most : 0;
                return (
                  <td
                    key={label}
                    className="h-6 rounded-[4px] text-center tabular-nums"
                    style={{
                      background: inner
                        ? `color-mix(in oklab, var(--s2) ${Math.round(share * 100)}%, var(--color-base-100))`
                        : "var(--color-base-200)",
                    }}
                  >
                    {inner && (
                      <Opens filter={inner.filter} at={at} className="block px-1">
                        {count(inner.count)}
                      </Opens>
                    )}
                  </td>
                );
              })}
            </tr>
          ))}
        </tbody>
      </table>
    </div>
  );
}
