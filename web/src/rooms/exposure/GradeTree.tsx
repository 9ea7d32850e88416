import type { Schemas } from "../../api/client";
import { GRADES, Grade } from "../../parts/Graded";
import { t, word } from "../../words";

/** A grade, or one question with the tree that each answer leads to. */
export type Tree = string | { [question: string]: { [answer: string]: Tree } };

interface Props {
  tree: Tree;
  questions: Schemas["GradeQuestion"][];
  /** Where it may be changed. */
  set?: ((tree: Tree) => void) | undefined;
  /** What was asked on the way here. */
  asked?: string[];
  place?: string;
}

/** The tree of questions as an outline; each place is a grade or a question that was not asked before. */
export function GradeTree({ tree, questions, set, asked = [], place = t("At first") }: Props) {
  const [name, answers] = typeof tree === "string" ? ["", {}] : (Object.entries(tree)[0] ?? ["", {}]);
  const question = questions.find((q) => q.name === name);
  const choices = questions.filter((q) => q.name === name || !asked.includes(q.name));
  const change = (value: string) => {
    const chosen = questions.find((q) => q.name === value);
    // Whatever stood here stands under each answer of the new question: nothing is graded otherwise by that alone.
    set?.(chosen ? { [value]: Object.fromEntries(chosen.answers.map((a) => [a, tree])) } : value);
  };
  return (
    <div className="text-[13.5px]">
      {set ? (
        <select
          className="select select-sm w-auto max-w-full pr-8"
          aria-label={place}
          value={typeof tree === "string" ? tree : name}
          onChange={(e) => change(e.target.value)}
        >
          <optgroup label={t("it asks for")}>
            {GRADES.map((g) => (
              <option key={g} value={g}>
                {word(g)}
              </option>
            ))}
          </optgroup>
          <optgroup label={t("it depends: ask")}>
            {choices.map((q) => (
              <option key={q.name} value={q.name}>
                {q.asks}
              </option>
            ))}
          </optgroup>
        </select>
      ) : typeof tree === "string" ? (
        <Grade grade={tree} />
      ) : (
        <b className="font-semibold">{question?.asks ?? name}</b>
      )}
      {typeof tree !== "string" && (
        <ul className="ml-2 border-l border-base-300 pl-3">
          {(question?.answers ?? Object.keys(answers)).map((answer) => (
            <li key={answer} className="flex items-start gap-2 py-0.5">
              <span className="dim w-20 shrink-0 pt-1 text-[12.5px]">{answer}</span>
              <GradeTree
                tree={answers[answer] ?? "watch"}
                questions={questions}
                asked={[...asked, name]}
                place={`${place}, ${name}: ${answer}`}
                set={
                  set &&
                  ((below) => set({ [name]: { ...(answers as Record<string, Tree>), [answer]: below } }))
                }
              />
            </li>
          ))}
        </ul>
      )}
    </div>
  );
}
