import { useQuery } from "@tanstack/react-query";
import { type ReactNode, useState } from "react";
import { asks } from "../../api/asking";
import { asRow } from "../../api/types";
import { bytes, memory, shortDay } from "../../parts/format";
import { OpenTo } from "../../parts/OpenTo";
import { Unanswered } from "../../parts/Problem";
import { t } from "../../words";

const FIRST = 30;

/** What a device is made of, holds and is open to, each unfolded when it is asked for: a phone fetches no more than is read. */
export function Held({ asset, number }: { asset: number; number: string }) {
  return (
    <div className="grid gap-2">
      <Fold title={t("Hardware")}>
        <Hardware asset={asset} />
      </Fold>
      <Fold title={t("Software")}>
        <Software asset={asset} />
      </Fold>
      <Fold title={t("Open to")}>
        <OpenTo number={number} />
      </Fold>
    </div>
  );
}

function Fold({ title, children }: { title: string; children: ReactNode }) {
  const [open, setOpen] = useState(false);
  return (
    <details className="sheet" open={open} onToggle={(e) => setOpen(e.currentTarget.open)}>
      <summary className="cursor-pointer px-3.5 py-2.5 text-[14px] font-semibold">{title}</summary>
      {open && children}
    </details>
  );
}

/** The dossier, asked for once for both lists. */
const useDossier = (asset: number) => useQuery(asks("/api/assets/{asset}", { params: { path: { asset } } }));

function Hardware({ asset }: { asset: number }) {
  const asked = useDossier(asset);
  if (!asked.data) return <Unanswered asked={asked} what={t("Opening …")} />;
  const plate = asRow(asked.data.plate);
  const listed = (name: string) => (asked.data.items[name] ?? []) as Record<string, string | number | null>[];
  const facts: [string, ReactNode][] = [
    [t("Processor"), plate.processor],
    [t("Cores"), plate.cores],
    [t("Memory"), plate.memory ? memory(Number(plate.memory)) : ""],
    ...listed("disks").map((d): [string, ReactNode] => [
      t("Disk {{name}}", { name: d.name }),
      [d.size && bytes(Number(d.size)), d.model].filter(Boolean).join(" · "),
    ]),
    ...listed("filesystems").map((f): [string, ReactNode] => [
      String(f.mount),
      [f.size && bytes(Number(f.size)), f.full != null && t("{{full}} % full", { full: f.full })]
        .filter(Boolean)
        .join(" · "),
    ]),
    ...listed("interfaces").map((i): [string, ReactNode] => [
      String(i.name),
      <span key="mac" className="mono text-[12.5px]">
        {i.mac}
      </span>,
    ]),
  ];
  const told = facts.filter(([, value]) => value);
  if (told.length === 0)
    return <p className="dim px-3.5 pb-3 text-[13px]">{t("No source tells what it is made of.")}</p>;
  return (
    <dl className="grid grid-cols-[112px_1fr] gap-y-1 px-3.5 pb-3 text-[13.5px]">
      {told.map(([label, value]) => (
        <div key={label} className="contents">
          <dt className="dim truncate" title={label}>
            {label}
          </dt>
          <dd className="min-w-0 break-words">{value}</dd>
        </div>
      ))}
    </dl>
  );
}

function Software({ asset }: { asset: number }) {
  const asked = useDossier(asset);
  const [find, setFind] = useState("");
  if (!asked.data) return <Unanswered asked={asked} what={t("Opening …")} />;
  const { software } = asked.data;
  if (software.length === 0)
    return <p className="dim px-3.5 pb-3 text-[13px]">{t("No source lists what is installed here.")}</p>;
  const wanted = find.trim().toLowerCase();
  const found = software.filter((s) => !wanted || `${s.name} ${s.publisher}`.toLowerCase().includes(wanted));
  return (
    <div className="px-3.5 pb-3 text-[13.5px]">
      <input
        type="search"
        className="input w-full"
        placeholder={t("Find a package or publisher")}
        aria-label={t("Find a package or publisher")}
        value={find}
        onChange={(e) => setFind(e.target.value)}
      />
      <ul className="pt-1.5">
        {found.slice(0, FIRST).map((s) => (
          <li key={s.name + s.version} className="flex gap-2 py-0.5">
            <span className="min-w-0 flex-1 truncate">{s.name}</span>
            <span className="mono text-[12.5px]">{s.version}</span>
            <span className="faint whitespace-nowrap">{shortDay(s.since)}</span>
          </li>
        ))}
        {found.length === 0 && <li className="dim">{t("Nothing here is called so.")}</li>}
        {found.length > FIRST && (
          <li className="dim pt-1">
            {t("and {{more}} more: type what to look for", { more: found.length - FIRST })}
          </li>
        )}
      </ul>
    </div>
  );
}
