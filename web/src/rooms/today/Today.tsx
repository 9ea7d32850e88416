import { useQuery } from "@tanstack/react-query";
import { asks } from "../../api/asking";
import { formatted } from "../../parts/days";
import { useDial } from "../../parts/dial";
import { plural } from "../../parts/format";
import { useMe } from "../../parts/me";
import { Unanswered } from "../../parts/Problem";
import { t } from "../../words";
import { Board } from "./Board";
import { FirstSteps } from "./FirstSteps";
import { type Drawn, Picture } from "./picture";
import { Wants } from "./Wants";

/** The room one arrives in: what wants a hand of whoever is here. */
export function Today({ picture }: { picture: Drawn }) {
  const me = useMe().data;
  const { at } = useDial();
  const asked = useQuery({ ...asks("/api/today"), refetchInterval: 60_000 });
  const told = asked.data;
  return (
    <Picture.Provider value={picture}>
      <div className="mx-auto w-full max-w-[1400px] px-4 pb-10">
        <div className="flex flex-wrap items-baseline gap-x-4 gap-y-1 pt-3.5 pb-3">
          <h1>{formatted({ weekday: "long", day: "numeric", month: "long" }, new Date().toISOString())}</h1>
          <span className="dim text-[13.5px]">
            {greeting()}
            {me && `, ${me.full_name.split(" ")[0]}`}.
            {told && told.first.length === 0 && ` ${wanting(told.wants.length)}`}
          </span>
        </div>
        {asked.error || !told ? (
          <Unanswered asked={asked} what={t("Seeing what wants a hand …")} />
        ) : told.first.length > 0 ? (
          <FirstSteps steps={told.first} />
        ) : (
          <div className="grid items-start gap-3 lg:grid-cols-[minmax(0,500px)_minmax(0,1fr)]">
            <Wants told={told} />
            <Board at={at} />
          </div>
        )}
      </div>
    </Picture.Provider>
  );
}

function greeting(): string {
  // In some languages the hour is written with a word: “08 Uhr”.
  const hour = Number.parseInt(
    formatted({ hour: "2-digit", hourCycle: "h23" }, new Date().toISOString()),
    10,
  );
  return hour < 5
    ? t("Good night")
    : hour < 12
      ? t("Good morning")
      : hour < 18
        ? t("Good afternoon")
        : t("Good evening");
}

function wanting(lines: number): string {
  if (lines === 0) return t("Nothing wants a hand.");
  return t("{{things}} {{which}} a hand; the rest is as it was.", {
    things: plural(lines, "thing"),
    which: lines === 1 ? t("wants") : t("want"),
  });
}
