import { useQuery } from "@tanstack/react-query";
import { Link } from "@tanstack/react-router";
import { useState } from "react";
import { asks } from "../../api/asking";
import { client, ok, type Schemas } from "../../api/client";
import { TaskDialog } from "../../parts/acts/TaskDialog";
import { both } from "../../parts/ask/written";
import { count, day, plural } from "../../parts/format";
import { GRADES } from "../../parts/Graded";
import { useMay } from "../../parts/me";
import { useDone } from "../../parts/Sheet";
import { t, word } from "../../words";
import { Accept } from "./Accept";
import type { Asked } from "./asked";
import { type Change, endedBy, share, underOf } from "./changing";
import { GiveWork } from "./GiveWork";
import { RefuseChange } from "./RefuseChange";

const PLACES = [
  "first",
  "second",
  "third",
  "fourth",
  "fifth",
  "sixth",
  "seventh",
  "eighth",
  "ninth",
  "tenth",
];

interface Props extends Asked {
  change: Change;
  place: number;
  open: number;
}

type Doing = "task" | "give" | "accept" | "refuse" | null;

/** Why a change stands where it does, whether it may be made, and the ways to have it made. */
export function ChangePanel({ change, place, open, filter, at, known }: Props) {
  const asked = useQuery({
    ...asks("/api/exposure/changes/{key}", {
      params: { path: { key: change.key }, query: { filter, as_of: at } },
    }),
    enabled: !known,
  });
  const more = asked.data?.change.key === change.key ? asked.data : undefined;
  return (
    <aside className="sheet px-4 py-3" aria-labelledby="why-first">
      <h2 id="why-first" className="dim text-[12px] font-semibold">
        {t("Why {{product}} comes {{PLACES}}", {
          product: change.product,
          PLACES: PLACES[place] ?? t("in place {{place}}", { place: place + 1 }),
        })}
      </h2>
      {change.todo && <p className="pt-1 text-[13px]">{change.todo}</p>}
      {more?.measures.map((words) => (
        <p key={words} className="pt-1 text-[13px]">
          {words}
        </p>
      ))}
      <Lines change={change} open={open} filter={filter} at={at} known={known} more={more} />
      {more && !at && <Doing more={more} filter={filter} />}
      <p className="pt-3">
        <Link to="/estate" search={{ at, q: both(filter, change.filter) }} className="btn btn-sm">
          {t("See the {{devices}}", { devices: plural(change.devices, "device") })}
        </Link>
      </p>
    </aside>
  );
}

type Page = Schemas["ChangePage"];

interface LinesProps extends Asked {
  change: Change;
  open: number;
  more: Page | undefined;
}

function Lines({ change, open, filter, at, known, more }: LinesProps) {
  const ended = endedBy(change);
  const lines: [string, string, React.ReactNode][] = [];
  if (change.advisories > 0)
    lines.push([
      count(change.advisories),
      change.advisories === 1 ? t("advisory has to do with it") : t("advisories have to do with it"),
      <span key="names" className="flex flex-wrap gap-x-2">
        {change.names.map((name) => (
          <Link
            key={name}
            to="/exposure/advisories/$advisory"
            params={{ advisory: name }}
            search={{ at, known, q: filter || undefined }}
            className="link-quiet mono"
          >
            {name}
          </Link>
        ))}
        {change.advisories > change.names.length &&
          t("and {{advisories}} more", { advisories: change.advisories - change.names.length })}
      </span>,
    ]);
  lines.push([
    count(change.devices),
    `${change.devices === 1 ? t("device") : t("devices")} ${
      change.rule ? (change.devices === 1 ? t("fits our rule") : t("fit our rule")) : t("to make it on")
    }`,
    change.rule || underOf(change),
  ]);
  if (change.score !== null) lines.push([change.score.toFixed(1), t("worst base score, as published"), ""]);
  if (change.chance !== null)
    lines.push([
      change.chance.toFixed(2),
      t("chance of use within 30 days (EPSS)"),
      change.used > 0
        ? t("{{advisories}} on a list of those in use", {
            advisories: plural(change.used, "advisory", "advisories"),
          })
        : "",
    ]);
  lines.push([
    `${share(ended, open)} %`,
    t("of what is open ends"),
    GRADES.filter((g) => change.ends[g])
      .map((g) => `${change.ends[g]} ${g}`)
      .join(", ") || t("only together with other changes on the same devices"),
  ]);
  if (more?.ruling && more.ruling !== "none yet")
    lines.push(["", t("the company says: {{ruling}}", { ruling: more.ruling }), more.ruling_why]);
  if (more?.rights)
    lines.push([
      count(more.rights.of - more.rights.without),
      t("of {{of}} have a right to {{target}}", { of: more.rights.of, target: change.target }),
      more.rights.without
        ? t("{{without}} have none: {{why}}", { without: more.rights.without, why: more.rights.why })
        : t("by licences that are held"),
    ]);
  return (
    <dl>
      {lines.map(([figure, words, small]) => (
        <div
          key={words}
          className="grid grid-cols-[64px_1fr] gap-x-3 border-b border-dashed border-base-300 py-2"
        >
          <dt className="text-right text-[15px] font-bold tabular-nums">{figure}</dt>
          <dd className="text-[13px]">
            {words}
            <span className="faint block text-[12px]">{small}</span>
          </dd>
        </div>
      ))}
    </dl>
  );
}

function Doing({ more, filter }: { more: Page; filter: string }) {
  const [doing, setDoing] = useState<Doing>(null);
  const [act, give, plan] = [useMay("tasks"), useMay("decide"), useMay("plan")];
  const done = useDone();
  const close = () => setDoing(null);
  const { change, doable } = more;
  const pinned = more.words.find((w) => w.word === "pin");
  const refused = more.words.find((w) => w.word === "refuse");
  const say = () =>
    void done(
      () =>
        ok(client.POST("/api/exposure/change-words", { body: { key: change.key, word: "pin", reason: "" } })),
      t("It goes first from now on."),
    );
  const unsay = (id: number) =>
    void done(
      () => ok(client.DELETE("/api/exposure/change-words/{number}", { params: { path: { number: id } } })),
      t("It stands where it belongs again."),
    );
  return (
    <section className="pt-3" aria-label={t("Doing it")}>
      <h3 className="dim text-[12px] font-semibold">{t("Doing it")}</h3>
      {refused && (
        <p className="pt-1 text-[13px]">
          {t("Refused by {{made_by}}: {{reason}}", { made_by: refused.made_by, reason: refused.reason })}
        </p>
      )}
      <p className="py-1 text-[13px]">
        {more.task === ""
          ? t("Somebody has to do it: there is no task that makes this change.")
          : t("{{devices}}, {{devices2}} can be done from here.", {
              devices: plural(doable.of, "device"),
              devices2: doable.devices,
            })}
      </p>
      {doable.why.length > 0 && (
        <ul className="faint list-disc pb-1 pl-4 text-[12px]">
          {doable.why.map((w) => (
            <li key={w.why}>
              {w.devices}: {w.why}
            </li>
          ))}
        </ul>
      )}
      {more.tasks.map((target) => (
        <p key={target.id} className="text-[12.5px]">
          <Link to="/tasks/$task" params={{ task: String(target.id) }} search={{}} className="link-quiet">
            {t("A task of {{asked_at}}: {{state}}", {
              asked_at: day(target.asked_at),
              state: word(target.state),
            })}
          </Link>
        </p>
      ))}
      {more.given.map((g) => (
        <p key={g.id} className="text-[12.5px]">
          {t("Given to {{person}}", { person: g.person || g.reference })}
          {g.day && t(", by {{day}}", { day: day(g.day) })}
          {t(": {{open}} of {{devices}} still open", { open: g.open, devices: g.devices })}
        </p>
      ))}
      <div className="flex flex-wrap gap-2 pt-2">
        {act && more.task && doable.devices > 0 && (
          <button type="button" className="btn btn-primary btn-sm" onClick={() => setDoing("task")}>
            {t("Make it a task")}
          </button>
        )}
        {give && (
          <button type="button" className="btn btn-sm" onClick={() => setDoing("give")}>
            {t("Give it to someone")}
          </button>
        )}
        {plan && change.rule && (
          <button type="button" className="btn btn-sm" onClick={() => setDoing("accept")}>
            {t("Accept instead")}
          </button>
        )}
        {plan &&
          (pinned || refused ? (
            <button type="button" className="btn btn-sm" onClick={() => unsay((pinned ?? refused)?.id ?? 0)}>
              {pinned ? t("No longer first") : t("Propose it again")}
            </button>
          ) : (
            <>
              <button type="button" className="btn btn-sm" onClick={say}>
                {t("Put it first")}
              </button>
              <button type="button" className="btn btn-sm" onClick={() => setDoing("refuse")}>
                {t("Refuse it")}
              </button>
            </>
          ))}
      </div>
      {doing === "task" && more.product_id !== null && (
        <TaskDialog
          kind={more.task as "update" | "uninstall"}
          filter={more.filter}
          product={{ id: more.product_id, name: change.product }}
          close={close}
        />
      )}
      {doing === "give" && <GiveWork page={more} filter={filter} close={close} />}
      {doing === "accept" && <Accept advisory={change.rule} own filter={filter} close={close} />}
      {doing === "refuse" && <RefuseChange change={change} close={close} />}
    </section>
  );
}
