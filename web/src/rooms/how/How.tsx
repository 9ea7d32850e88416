import { useQuery } from "@tanstack/react-query";
import { asks } from "../../api/asking";
import type { Schemas } from "../../api/client";
import { Bars } from "../../parts/Bars";
import { agoWords, bytes, count, day, moment } from "../../parts/format";
import { Unanswered } from "../../parts/Problem";
import { Sheet } from "../../parts/Sheet";
import { Table } from "../../parts/table/Table";
import { t } from "../../words";

type Told = Schemas["HowOut"];

/** How Tarn itself is, for whoever looks after it. */
export function How() {
  const asked = useQuery({ ...asks("/api/how"), refetchInterval: 15_000 });
  return (
    <div className="mx-auto grid w-full max-w-[1180px] gap-4 px-4 py-4">
      <div>
        <h1>{t("How Tarn is")}</h1>
        <p className="dim text-[13px]">
          {t("what it works at, what it remembers, what was slow, and what it needs")}
        </p>
      </div>
      {asked.data ? (
        <>
          <Parts parts={asked.data.parts} />
          <Disk disk={asked.data.disk} tables={asked.data.tables} />
          <Backups backups={asked.data.backups} />
          <Slow slow={asked.data.slow} />
          <Remembered remembered={asked.data.remembered} />
        </>
      ) : (
        <Unanswered asked={asked} what={t("Looking how Tarn is …")} />
      )}
    </div>
  );
}

function Parts({ parts }: { parts: Told["parts"] }) {
  return (
    <Sheet id="parts" title={t("What it works at")}>
      <ul className="grid gap-x-6 px-3.5 pb-3 sm:grid-cols-2">
        {parts.map((part) => (
          <li
            key={part.name}
            className="flex items-baseline gap-2 border-b border-base-300 py-1.5 text-[13.5px]"
          >
            <span className={`tag ${part.sound ? "ok" : "bad"}`}>
              {part.sound ? t("in order") : t("amiss")}
            </span>
            <b className="font-semibold">{part.name}</b>
            <span className="dim min-w-0">{part.says}</span>
          </li>
        ))}
      </ul>
    </Sheet>
  );
}

function Disk({ disk, tables }: { disk: Told["disk"]; tables: Told["tables"] }) {
  return (
    <Sheet id="disk" title={t("Its disk")} hint={t("noted once a day")}>
      {disk.whole === 0 ? (
        <p className="dim px-3.5 pb-3 text-[13px]">
          {t("Nothing is noted yet; the worker notes it within the hour.")}
        </p>
      ) : (
        <div className="flex flex-wrap items-center gap-x-6 gap-y-2 px-3.5 pb-3 text-[13.5px]">
          <span>
            {t("{{used}} of {{whole}} used, {{data}} by Tarn’s data", {
              used: bytes(disk.used),
              whole: bytes(disk.whole),
              data: bytes(disk.data),
            })}
          </span>
          <Bars
            values={disk.marks}
            label={t("How full it was, over {{days}} days", { days: disk.marks.length })}
          />
          <b className="font-semibold">
            {disk.full_on
              ? t("full on {{day}} at this pace", { day: day(disk.full_on) })
              : t("no day is in sight on which it is full")}
          </b>
        </div>
      )}
      {tables.length > 0 && (
        <details className="px-3.5 pb-3 text-[13px]">
          <summary className="cursor-pointer font-semibold">
            {t("What takes the most of the database")}
          </summary>
          <ul className="mt-1 grid gap-x-6 sm:grid-cols-3">
            {tables.map((table) => (
              <li key={table.name} className="flex justify-between gap-3">
                <span className="mono truncate">{table.name}</span>
                <span>{bytes(table.bytes)}</span>
              </li>
            ))}
          </ul>
        </details>
      )}
    </Sheet>
  );
}

function Backups({ backups }: { backups: Told["backups"] }) {
  return (
    <Sheet id="backups" title={t("Backups")} hint={t("each is unpacked and looked at as restoring does")}>
      {backups.length === 0 ? (
        <p className="dim px-3.5 pb-3 text-[13px]">
          {t(
            "None was made by the clock yet. Name a folder in TARN_BACKUPS, best on another machine’s disk.",
          )}
        </p>
      ) : (
        <Table
          list="backups"
          label={t("Backups")}
          rows={backups}
          rowKey={(b) => b.file}
          columns={[
            { key: "at", label: t("Made"), of: (b) => b.at, cell: (b) => moment(b.at) },
            { key: "bytes", label: t("Size"), of: (b) => b.bytes, cell: (b) => bytes(b.bytes), num: true },
            {
              key: "seconds",
              label: t("Took"),
              of: (b) => b.seconds,
              cell: (b) => `${b.seconds} s`,
              num: true,
            },
            {
              key: "checked",
              label: t("Found whole"),
              of: (b) => b.checked_at ?? "",
              cell: (b) =>
                b.checked_at ? agoWords(b.checked_at) : <span className="text-error">{b.trouble}</span>,
            },
            {
              key: "file",
              label: t("File"),
              of: (b) => b.file,
              cell: (b) => <span className="mono break-all">{b.file}</span>,
            },
          ]}
        />
      )}
    </Sheet>
  );
}

function Slow({ slow }: { slow: Told["slow"] }) {
  return (
    <Sheet
      id="slow"
      title={t("Slow answers")}
      hint={t("those that took longer than TARN_SLOW, the latest first")}
    >
      {slow.length === 0 ? (
        <p className="dim px-3.5 pb-3 text-[13px]">{t("No answer was slow.")}</p>
      ) : (
        <Table
          list="slow"
          label={t("Slow answers")}
          rows={slow}
          rowKey={(s) => `${s.at} ${s.door} ${s.seconds}`}
          columns={[
            { key: "at", label: t("When"), of: (s) => s.at, cell: (s) => moment(s.at) },
            {
              key: "seconds",
              label: t("Took"),
              of: (s) => s.seconds,
              cell: (s) => `${s.seconds} s`,
              num: true,
            },
            {
              key: "door",
              label: t("Call"),
              of: (s) => s.door,
              cell: (s) => <span className="mono">{s.door}</span>,
            },
            {
              key: "asked",
              label: t("Asked"),
              of: (s) => s.asked,
              cell: (s) => <span className="mono break-all">{s.asked.slice(0, 160)}</span>,
            },
            { key: "who", label: t("By"), of: (s) => s.who },
          ]}
        />
      )}
    </Sheet>
  );
}

function Remembered({ remembered }: { remembered: Told["remembered"] }) {
  const held = remembered.filter((r) => r.held > 0);
  return (
    <Sheet
      id="remembered"
      title={t("What it remembers")}
      hint={t("of the process that answered; what lies on disk all processes share")}
    >
      <Table
        list="remembered"
        label={t("What it remembers")}
        rows={held}
        rowKey={(r) => `${r.where} ${r.name}`}
        columns={[
          { key: "name", label: t("What"), of: (r) => r.name },
          {
            key: "where",
            label: t("Where"),
            of: (r) => r.where,
            cell: (r) => (r.where === "disk" ? t("on disk, for all") : t("in memory")),
          },
          { key: "held", label: t("Held"), of: (r) => r.held, cell: (r) => count(r.held), num: true },
          { key: "bytes", label: t("Size"), of: (r) => r.bytes, cell: (r) => bytes(r.bytes), num: true },
        ]}
      />
    </Sheet>
  );
}
