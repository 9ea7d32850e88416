import { client, ok, type Schemas } from "../../api/client";
import { Dialog } from "../../parts/Dialog";
import { useDraft } from "../../parts/draft";
import { Choice, FormFoot, TextField } from "../../parts/Form";
import { plural } from "../../parts/format";
import { t } from "../../words";
import type { State } from "./words";

type Act = Schemas["SettleIn"]["act"];

/** What can be done about lines: its words, and what it needs to be told. */
const ACTS: Record<Act, { label: string; asks?: string; hint?: string; needed?: boolean }> = {
  move: { label: t("Move them to where they were met") },
  assign: { label: t("Assign them to a person"), asks: t("To whom"), needed: true },
  missing: { label: t("Note them as missing") },
  lost: {
    label: t("Report them lost"),
    asks: t("Why"),
    hint: t("the step “report lost or stolen” is taken"),
  },
  adopt: { label: t("Take them into the register") },
  enter: {
    label: t("Enter them as new devices"),
    asks: t("Kind"),
    hint: t("what was scanned or typed is their serial number"),
    needed: true,
  },
  explain: { label: t("Explain"), asks: t("How it is"), needed: true },
};

const OF: Record<State, Act[]> = {
  missing: ["missing", "lost", "explain"],
  elsewhere: ["move", "assign", "explain"],
  "not expected": ["adopt", "move", "assign", "explain"],
  unknown: ["enter", "explain"],
  found: ["assign", "explain"],
};

interface Props {
  count: number;
  state: State;
  lines: Schemas["TakingLine"][];
  close: () => void;
}

/** Do something about several lines of a count at once. */
export function Settle({ count, state, lines, close }: Props) {
  const begun = { act: OF[state][0] as Act, words: "" };
  const { v, field, save, rest, busy, wrong } = useDraft(begun, { close });
  const act = ACTS[v.act];
  const settle = save(async () => {
    await ok(
      client.POST("/api/counts/{number}/settle", {
        params: { path: { number: count } },
        body: {
          act: v.act,
          words: act.asks ? v.words : "",
          expected: lines.flatMap((l) => l.expected ?? []),
          met: lines.flatMap((l) => (l.expected === null ? (l.met ?? []) : [])),
        },
      }),
    );
    return t("{{lines}} settled.", { lines: plural(lines.length, "line") });
  });
  return (
    <Dialog title={t("Settle {{lines}}", { lines: plural(lines.length, "line") })} close={close}>
      <form onSubmit={settle}>
        <Choice
          label={t("What is done")}
          {...field("act")}
          options={OF[state].map((one) => [one, ACTS[one].label] as const)}
        />
        {act.asks && (
          <TextField
            label={act.asks}
            {...field("words")}
            wrong={wrong("words") ?? wrong("kind") ?? wrong("why")}
            required={act.needed}
            hint={act.hint}
          />
        )}
        {rest}
        <FormFoot close={close} busy={busy} save={t("Settle")} />
      </form>
    </Dialog>
  );
}
