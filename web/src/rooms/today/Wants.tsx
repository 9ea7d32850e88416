import { Link } from "@tanstack/react-router";
import { client, ok, type Schemas } from "../../api/client";
import { companyDay, daysFrom } from "../../parts/days";
import { count, shortDay } from "../../parts/format";
import { closeMenu, Menu } from "../../parts/Menu";
import { useDone } from "../../parts/Sheet";
import { t } from "../../words";

type Want = Schemas["WantOut"];

const INK: Record<Want["grade"], string> = {
  bad: "text-error",
  warn: "text-warning-content",
  note: "text-info",
};

/** What wants a hand, the most pressing first: how many, what, and the way there; each can be put aside. */
export function Wants({ told }: { told: Schemas["TodayOut"] }) {
  return (
    <section className="sheet" aria-labelledby="wants">
      <h2 id="wants" className="px-3.5 pt-2.5 pb-1 text-[13px] font-semibold">
        {t("Wants a hand, the most pressing first")}
      </h2>
      {told.wants.length === 0 && (
        <p className="dim px-3.5 pt-2 pb-4">
          {t("Nothing wants a hand. All that was put aside stands below.")}
        </p>
      )}
      <ul>
        {told.wants.map((want) => (
          <li
            key={want.key}
            className="flex items-center gap-3 border-b border-base-300 px-3.5 py-2.5 last:border-0"
          >
            <b className={`w-12 flex-none text-right text-[19px] tabular-nums ${INK[want.grade]}`}>
              {want.button ? count(want.count) : "–"}
            </b>
            <span className="min-w-0 flex-1">
              <span className="block leading-snug font-semibold">{want.text}</span>
              {want.beside && <span className="dim block text-[12.5px] break-words">{want.beside}</span>}
            </span>
            {want.button && (
              <Link to={want.to} search={want.search as never} className="btn btn-sm flex-none">
                {want.button}
              </Link>
            )}
            <PutAside want={want} />
          </li>
        ))}
      </ul>
      <Aside told={told} />
    </section>
  );
}

function PutAside({ want }: { want: Want }) {
  const done = useDone("today");
  const put = (how: "until" | "done" | "never", days?: number) => {
    closeMenu(t("Put aside"), want.key);
    const until = days === undefined ? null : daysFrom(companyDay(), days);
    void done(() => ok(client.POST("/api/today/aside", { body: { key: want.key, how, until } })));
  };
  return (
    <Menu label={t("Put aside")} of={want.key} icon={<span aria-hidden="true">⋯</span>}>
      <p className="faint px-2 pb-1 text-[12px]">{want.text}</p>
      {(
        [
          [t("Not before tomorrow"), () => put("until", 1)],
          [t("Not before next week"), () => put("until", 7)],
          [t("Not before next month"), () => put("until", 30)],
          [t("Done, until something new comes"), () => put("done")],
          [t("Not for me"), () => put("never")],
        ] as const
      ).map(([label, act]) => (
        <button key={label} type="button" className="btn btn-ghost btn-sm w-full justify-start" onClick={act}>
          {label}
        </button>
      ))}
    </Menu>
  );
}

function Aside({ told }: { told: Schemas["TodayOut"] }) {
  const done = useDone("today");
  if (told.aside.length === 0 && told.done === 0) return null;
  return (
    <details className="border-t border-base-300 px-3.5 py-2 text-[13px]">
      <summary className="dim cursor-pointer">
        {t("Put aside: {{aside}} · Done today: {{done}}", {
          aside: count(told.aside.length),
          done: count(told.done),
        })}
      </summary>
      <ul className="pt-1.5">
        {told.aside.map((a) => (
          <li key={a.key} className="flex items-baseline gap-3 py-1">
            <span className="min-w-0 flex-1">
              {a.text} <span className="faint">{WHEN[a.how](a.until)}</span>
            </span>
            <button
              type="button"
              className="link-quiet font-semibold"
              onClick={() =>
                void done(() =>
                  ok(client.DELETE("/api/today/aside/{key}", { params: { path: { key: a.key } } })),
                )
              }
            >
              {t("Show it again")}
            </button>
          </li>
        ))}
      </ul>
    </details>
  );
}

const WHEN = {
  until: (day: string | null) => (day ? t("until {{day}}", { day: shortDay(day) }) : ""),
  done: () => t("until something new comes"),
  never: () => t("not for me"),
};
