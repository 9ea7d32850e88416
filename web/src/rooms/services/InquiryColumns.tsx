import { Link } from "@tanstack/react-router";
import type { ReactNode } from "react";
import type { Schemas } from "../../api/client";
import { DeviceLink } from "../../parts/DeviceLink";
import { agoWords, plural, shortDay } from "../../parts/format";
import { t, word } from "../../words";
import { Clock } from "./Clock";
import { Fill } from "./Fill";
import { Opens } from "./Opens";

type Told = Schemas["InquiryOut"];
type Column = Schemas["InquiryColumn"];

interface Props {
  told: Told;
  at: string | undefined;
}

const TAG = { bad: "tag bad", warn: "tag warn", "": "tag" } as const;

/** The devices of an inquiry side by side: what is asked of each stands in one row. */
export function InquiryColumns({ told, at }: Props) {
  const rows: [string, (column: Column) => ReactNode][] = [
    [t("When"), (c) => <Clock events={c.events} since={told.since} until={told.until} name={c.name} />],
    [t("Who is hurt"), (c) => <Hurt column={c} at={at} />],
    [t("Health"), (c) => <Health column={c} />],
    [t("Certificate"), (c) => <Certificates column={c} />],
    [t("Changed lately"), (c) => <Changed column={c} />],
    [t("Stands on"), (c) => <StandsOn column={c} at={at} />],
    [t("Talk"), (c) => <Talk column={c} at={at} until={told.until} />],
    [t("Open to"), (c) => <Open column={c} />],
    [t("Tickets"), (c) => <Tickets column={c} />],
    [t("Who to tell"), (c) => <Tell column={c} />],
  ];
  return (
    <>
      <div className="sheet hidden overflow-x-auto sm:block">
        <table className="w-full border-collapse text-[13px]" aria-label={t("Devices side by side")}>
          <thead>
            <tr>
              <td className="w-28 min-w-28" />
              {told.columns.map((c) => (
                <th
                  key={c.asset}
                  scope="col"
                  className="min-w-72 border-l border-base-300 px-3 py-2.5 text-left"
                >
                  <Head column={c} at={at} />
                </th>
              ))}
            </tr>
          </thead>
          <tbody>
            {rows.map(([label, cell]) => (
              <tr key={label} className="border-t border-base-300 align-top">
                <th scope="row" className="dim px-3 py-2 text-left text-[12.5px] font-semibold">
                  {label}
                </th>
                {told.columns.map((c) => (
                  <td key={c.asset} className="border-l border-base-300 px-3 py-2">
                    {cell(c)}
                  </td>
                ))}
              </tr>
            ))}
          </tbody>
        </table>
      </div>
      <div className="grid gap-3 sm:hidden">
        {told.columns.map((c) => (
          <section key={c.asset} className="sheet px-3.5 py-2.5 text-[13.5px]" aria-label={c.name}>
            <Head column={c} at={at} />
            <dl>
              {rows.map(([label, cell]) => (
                <div key={label} className="border-t border-base-300 py-1.5">
                  <dt className="dim text-[12px] font-semibold">{label}</dt>
                  <dd>{cell(c)}</dd>
                </div>
              ))}
            </dl>
          </section>
        ))}
      </div>
    </>
  );
}

function Head({ column: c, at }: { column: Column; at: string | undefined }) {
  return (
    <div className="font-normal">
      <div className="flex items-baseline justify-between gap-2">
        <DeviceLink asset={c.asset} at={at} className="link-quiet mono text-[15px] font-bold">
          {c.name}
        </DeviceLink>
        <span className="tag">{c.state ?? t("no state")}</span>
      </div>
      <div className="dim flex justify-between gap-2 pb-1 text-[12.5px]">
        <span>
          {c.kind ?? t("device")}
          {c.os && `, ${c.os}`}
        </span>
        <span>{c.place}</span>
      </div>
      <div className="faint text-[12px]">
        <span className="mono">{c.address ?? t("no address")}</span>
        {t(", seen {{last_seen}}", { last_seen: agoWords(c.last_seen) })}
      </div>
    </div>
  );
}

const none = (text: string) => <span className="dim">{text}</span>;

function Hurt({ column: c, at }: { column: Column; at: string | undefined }) {
  return (
    <div className="flex flex-wrap gap-1.5">
      {c.hurt.map((h) => (
        <Link
          key={h.id}
          to="/services/$service"
          params={{ service: String(h.id) }}
          search={{ at }}
          className={h.fate === "stops" ? "tag bad" : "tag warn"}
          title={t("{{name}} {{which}} if it stops", {
            name: h.name,
            which: h.fate === "stops" ? t("stops") : t("is weakened"),
          })}
        >
          {h.name}
          {h.short && t(", short already")}
        </Link>
      ))}
      <span>
        {c.under.devices === 0 ? (
          none(t("nobody is known to stand on it"))
        ) : (
          <Opens of={c.under} at={at}>
            {plural(c.under.devices, "device")}
          </Opens>
        )}
        {c.people > 0 && `, ${plural(c.people, "person", "people")}`}
      </span>
    </div>
  );
}

function Health({ column: c }: { column: Column }) {
  const shown = c.bars.filter((b, n) => b.grade !== "" || n < 3);
  const ports = c.ports.filter((p) => p.grade !== "");
  if (shown.length + ports.length === 0) return none(t("nothing is read of how full it is"));
  return (
    <ul className="grid gap-1">
      {shown.map((b) => (
        <li key={b.what} className="flex items-center gap-2">
          <span className="mono max-w-28 truncate text-[12px]">{b.what}</span>
          <Fill percent={b.percent} grade={b.grade} className="w-20 shrink-0" />
          <span className={b.grade === "bad" ? "font-semibold text-error" : ""}>{b.words}</span>
        </li>
      ))}
      {ports.map((p) => (
        <li key={`${p.switch} ${p.port}`}>
          <span className="mono text-[12px]">
            {p.name} {p.port}
          </span>{" "}
          <span className={p.grade === "bad" ? "font-semibold text-error" : ""}>{p.words}</span>
        </li>
      ))}
    </ul>
  );
}

function Certificates({ column: c }: { column: Column }) {
  if (c.certificates.length === 0) return none("none");
  return (
    <ul className="grid gap-1">
      {c.certificates.slice(0, 3).map((one) => (
        <li key={one.port}>
          <span className={one.grade ? TAG[one.grade] : "tag good"}>
            {one.days < 0
              ? t("over since {{ends_at}}", { ends_at: shortDay(one.ends_at) })
              : t("good for {{days}}", { days: plural(one.days, "day") })}
          </span>{" "}
          <span className="mono text-[12px] break-all">
            {one.subject}:{one.port}
          </span>
        </li>
      ))}
    </ul>
  );
}

function Changed({ column: c }: { column: Column }) {
  if (c.changed.length === 0) return none(t("nothing in two weeks"));
  return (
    <ul className="grid gap-0.5">
      {c.changed.slice(0, 5).map((one) => (
        <li key={`${one.at} ${one.text}`}>
          {one.text} <span className="dim">{shortDay(one.at)}</span>
          {one.alike > 1 && (
            <span className="tag warn ml-1">{t("on {{alike}} of these", { alike: one.alike })}</span>
          )}
        </li>
      ))}
      {c.changed.length > 5 && (
        <li className="dim">{t("and {{changed}} more", { changed: c.changed.length - 5 })}</li>
      )}
    </ul>
  );
}

function StandsOn({ column: c, at }: { column: Column; at: string | undefined }) {
  if (c.on.length === 0) return none(t("nothing that is known"));
  return (
    <ul>
      {c.on.map((s) => (
        <li key={`${s.kind} ${s.asset} ${s.over}`}>
          <span className="dim">{word(s.kind)}</span>{" "}
          <DeviceLink asset={s.asset} at={at}>
            {s.name}
          </DeviceLink>{" "}
          {s.over}
        </li>
      ))}
    </ul>
  );
}

function Talk({ column: c, at, until }: { column: Column; at: string | undefined; until: string }) {
  if (c.talk.length === 0) return none(t("none is heard"));
  const now = new Date(until).getTime();
  const shown = c.talk.filter((talk, n) => talk.quiet || n < 6);
  return (
    <ul className="grid gap-0.5">
      {shown.map((talk) => (
        <li key={`${talk.direction} ${talk.asset} ${talk.over}`}>
          <span className="dim">{talk.direction === "out" ? t("calls") : t("called by")}</span>{" "}
          <DeviceLink asset={talk.asset} at={at}>
            {talk.name}
          </DeviceLink>
          <span className="mono">:{talk.over}</span>{" "}
          {talk.quiet ? (
            <span className="tag bad">
              {t("quiet since {{last_heard}}", { last_heard: shortDay(talk.last_heard) })}
            </span>
          ) : (
            <span className="dim">{agoWords(talk.last_heard, now)}</span>
          )}
        </li>
      ))}
      {c.talk.length > shown.length && (
        <li className="dim">{t("and {{talk}} more", { talk: c.talk.length - shown.length })}</li>
      )}
    </ul>
  );
}

function Open({ column: c }: { column: Column }) {
  if (c.in_use.length === 0) return none(t("nothing that attackers are known to use"));
  return (
    <ul>
      {c.in_use.slice(0, 4).map((name) => (
        <li key={name}>
          <Link to="/exposure/advisories/$advisory" params={{ advisory: name }} className="link-quiet">
            {name}
          </Link>{" "}
          <span className="tag bad">{t("in use")}</span>
        </li>
      ))}
      {c.in_use.length > 4 && (
        <li className="dim">{t("and {{in_use}} more", { in_use: c.in_use.length - 4 })}</li>
      )}
    </ul>
  );
}

function Tickets({ column: c }: { column: Column }) {
  if (c.tickets.length === 0) return none(t("none open"));
  return (
    <ul>
      {c.tickets.map((ticket) => (
        <li key={ticket.number}>
          <span className="mono">{ticket.number}</span> {ticket.title}{" "}
          <span className="dim">{word(ticket.state)}</span>
        </li>
      ))}
    </ul>
  );
}

function Tell({ column: c }: { column: Column }) {
  if (c.tell.length === 0) return none(t("nobody is known"));
  return (
    <ul>
      {c.tell.map((person) => (
        <li key={person.name}>
          {person.name} <span className="dim">{person.why}</span>
        </li>
      ))}
    </ul>
  );
}
