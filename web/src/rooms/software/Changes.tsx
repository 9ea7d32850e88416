import { useQuery } from "@tanstack/react-query";
import { Link } from "@tanstack/react-router";
import { useState } from "react";
import { asks } from "../../api/asking";
import type { Schemas } from "../../api/client";
import { both, quoted } from "../../parts/ask/written";
import { Bars } from "../../parts/Bars";
import { ChangeGlyph } from "../../parts/ChangeGlyph";
import { DeviceLink } from "../../parts/DeviceLink";
import { count, plural, shortDay } from "../../parts/format";
import { Empty, Unanswered } from "../../parts/Problem";
import { Table } from "../../parts/table/Table";
import { t, word } from "../../words";
import { Verdict } from "./Verdict";

type Wave = Schemas["WaveOut"];

const SPANS: [number, string][] = [
  [1, t("Day")],
  [7, t("Week")],
  [28, t("Four weeks")],
  [120, t("Four months")],
];
const VERBS = [
  "installed",
  "updated",
  "rolled back",
  "renamed",
  "added",
  "changed",
  "removed",
  "started",
  "signed in",
];
const ABOUT = [
  ["software", t("Software")],
  ["hardware", t("Hardware")],
  ["activity", t("Starts and sign-ins")],
] as const;
type About = (typeof ABOUT)[number][0];
const WHAT: Record<About, [string, string]> = {
  software: [t("Product"), t("Release")],
  hardware: [t("Part"), t("Before and after")],
  activity: [t("Who or what"), ""],
};

/** What changed in a selection: one line a change, however many devices it went over. */
export function Changes(props: { filter: string; at: string | undefined; product?: number }) {
  const { filter, at, product } = props;
  const [days, setDays] = useState(product === undefined ? 7 : 120);
  const [everything, setEverything] = useState(false);
  const [verb, setVerb] = useState("");
  const [about, setAbout] = useState<About>("software");
  const roles = everything ? "product,update,driver,run-time,component" : "product";
  const asked = useQuery({
    ...asks("/api/software/changes", {
      params: { query: { filter, as_of: at, days, product, roles, about } },
    }),
    placeholderData: (before) => before,
  });
  if (asked.error || !asked.data) return <Unanswered asked={asked} what={t("Reading what changed …")} />;
  const shown = asked.data.waves.filter((w) => !verb || w.verb === verb);
  return (
    <>
      <div className="flex flex-wrap items-center gap-2 py-2.5">
        <span className="dim text-[13.5px]">
          {t("{{since}} to {{until}}:", {
            since: shortDay(asked.data.since),
            until: shortDay(asked.data.until),
          })}{" "}
          <b className="text-base-content">
            {t("{{changes}} in {{lines}}", {
              changes: plural(asked.data.changes, "change"),
              lines: plural(asked.data.waves.length, "line"),
            })}
          </b>
        </span>
        {product === undefined && (
          <span className="join" role="group" aria-label={t("What changed")}>
            {ABOUT.map(([key, label]) => (
              <button
                key={key}
                type="button"
                aria-pressed={about === key}
                className={`btn join-item btn-sm ${about === key ? "btn-primary" : ""}`}
                onClick={() => {
                  setAbout(key);
                  setVerb("");
                }}
              >
                {label}
              </button>
            ))}
          </span>
        )}
        <span className="flex-1" />
        {VERBS.filter((v) => asked.data.waves.some((w) => w.verb === v)).map((v) => (
          <button
            key={v}
            type="button"
            aria-pressed={verb === v}
            className={`btn btn-sm ${verb === v ? "btn-primary" : ""}`}
            onClick={() => setVerb(verb === v ? "" : v)}
          >
            {word(v)}
          </button>
        ))}
        {about === "software" && (
          <label className="mx-2 flex items-center gap-2 text-[13px]">
            <input
              type="checkbox"
              className="checkbox checkbox-sm"
              checked={everything}
              onChange={(e) => setEverything(e.target.checked)}
            />
            {t("Updates and parts too")}
          </label>
        )}
        {SPANS.map(([n, label]) => (
          <button
            key={n}
            type="button"
            aria-pressed={days === n}
            className={`btn btn-sm ${days === n ? "btn-primary" : ""}`}
            onClick={() => setDays(n)}
          >
            {label}
          </button>
        ))}
      </div>
      {shown.length === 0 ? (
        <Empty title={t("Nothing changed in these days.")}>
          {t(
            "What came with a device’s first reading is no change. Take a longer stretch, or a wider question.",
          )}
        </Empty>
      ) : (
        <div className="sheet overflow-x-auto">
          <Table
            list={`changes-${about}`}
            label={t("What changed: {{about}}", { about })}
            rows={shown}
            rowKey={(w) => `${w.thing}|${w.verb}|${w.after}|${w.before.join()}`}
            columns={[
              {
                key: "change",
                label: t("Change"),
                of: (w) => word(w.verb),
                cell: (w) => (
                  <>
                    <ChangeGlyph verb={w.verb} /> <span className="dim">{word(w.verb)}</span>
                  </>
                ),
                className: "w-[130px] whitespace-nowrap",
              },
              {
                key: "what",
                label: WHAT[about][0],
                of: (w) => w.thing,
                cell: (w) => <Thing wave={w} at={at} filter={filter} />,
              },
              ...(WHAT[about][1]
                ? [
                    {
                      key: "from",
                      label: WHAT[about][1],
                      of: fromTo,
                      mono: true,
                      className: "whitespace-nowrap",
                    },
                  ]
                : []),
              {
                key: "where",
                label: t("Where"),
                of: (w) => w.devices,
                cell: (w) => <Devices wave={w} at={at} filter={filter} />,
                className: "whitespace-nowrap",
              },
              {
                key: "days",
                label: t("28 days"),
                of: (w) => w.days.join(" "),
                cell: (w) => (
                  <Bars
                    values={w.days}
                    label={t("{{devices}} devices over 28 days", { devices: w.devices })}
                  />
                ),
              },
              { key: "looks", label: t("What it looks like"), of: (w) => w.looks_like, className: "dim" },
              ...(about === "software"
                ? [
                    {
                      key: "ruling",
                      label: t("Ruling"),
                      of: (w: Wave) => word(w.verdict),
                      cell: (w: Wave) => <Verdict verdict={w.verdict} />,
                    },
                  ]
                : []),
            ]}
          />
        </div>
      )}
    </>
  );
}

interface WaveProps {
  wave: Wave;
  at: string | undefined;
  filter: string;
}

function fromTo(wave: Wave): string {
  const from =
    wave.before.length > 2
      ? t("{{before}} and {{before2}} others", { before: wave.before[0], before2: wave.before.length - 1 })
      : wave.before.join(", ");
  return [from, wave.after].filter(Boolean).join(" → ");
}

function Thing({ wave, at, filter }: WaveProps) {
  if (wave.product === null || wave.product === undefined) return wave.thing;
  return (
    <Link
      to="/software/products/$product"
      params={{ product: String(wave.product) }}
      search={{ at, q: filter || undefined }}
      className="link-quiet font-semibold"
    >
      {wave.thing}
    </Link>
  );
}

/** How many devices, leading to them where a filter can say which: those that have what came. */
function Devices({ wave, at, filter }: WaveProps) {
  if (wave.assets.length === 1)
    return (
      <DeviceLink asset={wave.assets[0] ?? 0} at={at} className="link-quiet">
        {t("1 device")}
      </DeviceLink>
    );
  const words = `${count(wave.devices)} devices`;
  if (wave.product === null && wave.numbers.length === wave.devices)
    return (
      <Link to="/estate" search={{ at, q: `number in (${wave.numbers.join(", ")})` }} className="link-quiet">
        {words}
      </Link>
    );
  if (wave.after === null || wave.after === undefined || wave.verb === "renamed") return words;
  const since = wave.first.slice(0, 10);
  const came = `software[product = ${quoted(wave.thing)} and version = ${quoted(wave.after)} and since >= ${since}]`;
  return (
    <Link to="/estate" search={{ at, q: both(filter, came) }} className="link-quiet">
      {words}
    </Link>
  );
}
