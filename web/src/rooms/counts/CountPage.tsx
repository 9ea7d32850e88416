import { useQuery } from "@tanstack/react-query";
import { Link, useParams } from "@tanstack/react-router";
import { useState } from "react";
import { asks } from "../../api/asking";
import { client, ok, type Schemas } from "../../api/client";
import { count, moment, plural } from "../../parts/format";
import { useMay } from "../../parts/me";
import { Papers } from "../../parts/Papers";
import { Unanswered } from "../../parts/Problem";
import { useDone } from "../../parts/Sheet";
import { t, word } from "../../words";
import { Lines } from "./Lines";
import { Progress } from "./Progress";
import { ORDER, STATES, type State, stateLabel } from "./words";

type Whole = Schemas["TakingWhole"];

/** A count: what it says so far, place by place and line by line, and what is done about it. */
export function CountPage() {
  const number = Number((useParams({ strict: false }) as { count: string }).count);
  const asked = useQuery({
    ...asks("/api/counts/{number}", { params: { path: { number } } }),
    refetchInterval: (q) => (q.state.data?.state === "open" ? 10_000 : false),
  });
  const [state, setState] = useState<State | undefined>();
  const [place, setPlace] = useState<string | undefined>();
  if (asked.error || !asked.data) return <Unanswered asked={asked} what={t("Opening the count …")} />;
  const whole = asked.data;
  const shown = state ?? ORDER.find((s) => whole.figures[s] > 0) ?? "found";
  return (
    <div className="mx-auto w-full max-w-[1400px] px-4 pb-10">
      <p className="dim pt-3 text-[13px]">
        <Link to="/lifecycle" search={{ tab: "counts" }} className="link-quiet font-semibold">
          {t("Counts")}
        </Link>
      </p>
      <Head whole={whole} />
      <div className="grid gap-4 lg:grid-cols-[300px_1fr]">
        <aside>
          <Places whole={whole} place={place} choose={setPlace} />
          {whole.sample && <p className="sheet mt-3 px-3.5 py-2.5 text-[13px]">{whole.sample.words}</p>}
          <div className="mt-3">
            <Papers path={`/api/papers-of/count/${whole.id}`} />
          </div>
        </aside>
        <div className="min-w-0">
          <nav aria-label={t("What the count says")} className="flex flex-wrap gap-1.5 pb-2.5">
            {ORDER.map((one) => (
              <button
                key={one}
                type="button"
                aria-pressed={one === shown}
                title={STATES[one].what}
                className={`btn btn-sm ${one === shown ? "btn-primary" : ""}`}
                onClick={() => setState(one)}
              >
                {stateLabel(one, whole.state === "open")}
                <span className="num">{count(whole.figures[one])}</span>
              </button>
            ))}
          </nav>
          <Lines key={`${shown} ${place}`} whole={whole} state={shown} place={place} />
        </div>
      </div>
    </div>
  );
}

function Head({ whole }: { whole: Whole }) {
  const may = useMay("decide");
  const done = useDone("counts");
  const end = (how: "close" | "give-up", said: string) =>
    done(
      () => ok(client.POST(`/api/counts/{number}/${how}`, { params: { path: { number: whole.id } } })),
      said,
    );
  const met = whole.figures.found + whole.figures.elsewhere;
  const close = () => {
    const left = whole.figures.missing
      ? t(" {{devices}} will count as missing.", { devices: plural(whole.figures.missing, "device") })
      : "";
    if (
      window.confirm(
        t("Close {{number}}?{{left}} What was met becomes evidence. This is final.", {
          number: whole.number,
          left,
        }),
      )
    )
      void end("close", t("{{number}} is closed; its protocol is signed.", { number: whole.number }));
  };
  return (
    <>
      <div className="flex flex-wrap items-center gap-x-3 gap-y-1 pt-1 pb-2">
        <h1>{whole.name}</h1>
        <span className="mono dim text-[13px]">{whole.number}</span>
        <span className={`tag ${whole.state === "open" ? "note" : ""}`}>{word(whole.state)}</span>
        <span className="flex-1" />
        {whole.state === "open" && may && (
          <>
            <button
              type="button"
              className="btn btn-sm"
              onClick={() => {
                if (
                  window.confirm(
                    t("Give {{number}} up? Nothing that was met in it becomes evidence.", {
                      number: whole.number,
                    }),
                  )
                )
                  void end("give-up", t("{{number}} is given up.", { number: whole.number }));
              }}
            >
              {t("Give it up")}
            </button>
            <button type="button" className="btn btn-sm" onClick={close}>
              {t("Close it")}
            </button>
            <Link
              to="/pocket/count/$count"
              params={{ count: String(whole.id) }}
              search={{}}
              className="btn btn-primary btn-sm"
            >
              {t("Count now")}
            </Link>
          </>
        )}
        {whole.state === "closed" && (
          <a className="btn btn-sm" href={`/api/counts/${whole.id}/protocol`} download>
            {t("Protocol, signed")}
          </a>
        )}
      </div>
      <div className="flex flex-wrap items-center gap-x-4 gap-y-1 pb-3">
        <div className="w-72">
          <Progress figures={whole.figures} expected={whole.expected} />
        </div>
        <p className="text-[13px]">
          <b>{count(met)}</b> {t("of {{expected}} met", { expected: count(whole.expected) })}
          {whole.counters.length > 0 &&
            t(", counted by {{counters}}", { counters: whole.counters.join(", ") })}
          <span className="dim">
            {" "}
            {t("· opened {{made_at}} by {{made_by}}", {
              made_at: moment(whole.made_at),
              made_by: whole.made_by,
            })}
            {whole.ended_at &&
              t(" · {{state}} {{ended_at}} by {{ended_by}}", {
                state: word(whole.state),
                ended_at: moment(whole.ended_at),
                ended_by: whole.ended_by,
              })}
            {whole.state === "closed" &&
              whole.unsettled > 0 &&
              t(" · {{lines}} nobody has settled", { lines: plural(whole.unsettled, "line") })}
          </span>
        </p>
      </div>
    </>
  );
}

function Places(props: {
  whole: Whole;
  place: string | undefined;
  choose: (place: string | undefined) => void;
}) {
  const { whole, place, choose } = props;
  return (
    <section className="sheet" aria-label={t("Places")}>
      <h2 className="px-3.5 pt-2.5 pb-1 text-[15px] font-semibold">{t("Places")}</h2>
      <ul className="pb-2 text-[13px]">
        {whole.places.map((p) => (
          <li key={p.place}>
            <button
              type="button"
              aria-pressed={place === p.place}
              onClick={() => choose(place === p.place ? undefined : p.place)}
              className="flex w-full items-baseline gap-2 px-3.5 py-1 text-left hover:bg-[var(--head)] aria-pressed:bg-[var(--head)] aria-pressed:font-semibold"
            >
              <span className="min-w-0 flex-1 truncate">
                {p.place || t("no place known")}
                {p.counter && <span className="dim"> · {p.counter}</span>}
              </span>
              <span className="num">
                {t("{{found}} of {{expected}}", {
                  found: count(p.found + p.elsewhere),
                  expected: count(p.expected),
                })}
              </span>
              {p.missing === 0 && <span className="tag ok">{t("done")}</span>}
            </button>
          </li>
        ))}
      </ul>
    </section>
  );
}
