import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { asks } from "../../api/asking";
import type { Schemas } from "../../api/client";
import { DeviceLink } from "../../parts/DeviceLink";
import { EvidenceMark } from "../../parts/Evidence";
import { capital, count, memory, plural } from "../../parts/format";
import { Problem, Unanswered, Waiting } from "../../parts/Problem";
import { Table } from "../../parts/table/Table";
import { t, word } from "../../words";
import { Overlaps } from "./Overlaps";

type Data = Schemas["CrossCheckOut"];
type Guess = Schemas["LabelledEstimate"];

/** The cross-check lens: who sees what of the selection, what only some know and why, and what nobody has seen. */
export function CrossCheck({ filter, at }: { filter: string; at?: string }) {
  const [mask, setMask] = useState<number | null>(null);
  const query = { filter, as_of: at ?? "" };
  const data = useQuery(asks("/api/crosscheck", { params: { query } }));
  if (data.error || !data.data)
    return <Unanswered asked={data} what={t("Laying the sources side by side …")} />;
  return (
    <div className="h-full overflow-auto px-4 py-3.5">
      <div className="grid items-start gap-3 lg:grid-cols-[1.9fr_1fr]">
        <section className="sheet min-w-0 px-3.5 py-3" aria-labelledby="who-title">
          <h2 id="who-title" className="dim mb-1 text-[12px] font-semibold">
            {t("Who sees what, of {{devices}} known (intake included)", {
              devices: plural(data.data.total, "device"),
            })}
          </h2>
          <Overlaps data={data.data} picked={mask} pick={setMask} />
        </section>
        <Unseen data={data.data} />
      </div>
      <Devices filter={filter} at={at} mask={mask} data={data.data} clear={() => setMask(null)} />
      {!at && <Disagreements filter={filter} />}
    </div>
  );
}

function Unseen({ data }: { data: Data }) {
  const whole = data.estimate;
  const [by, setBy] = useState<"kind" | "place">("kind");
  const rows = by === "kind" ? data.by_kind : data.by_place;
  const total = whole.known + Math.max(whole.high, 1);
  return (
    <section className="sheet px-4 py-3" aria-labelledby="unseen-title">
      <h2 id="unseen-title" className="dim mb-1 text-[12px] font-semibold">
        {t("How many has nobody seen?")}
      </h2>
      {whole.refusal ? (
        <p className="text-[13.5px]">{whole.refusal}</p>
      ) : (
        <>
          <p>
            <b className="text-[30px] leading-tight text-primary">
              {t("about {{unseen}}", { unseen: count(Math.round(whole.unseen)) })}
            </b>{" "}
            <span className="dim text-[13.5px]">
              {t("between {{low}} and {{high}}, nineteen times in twenty", {
                low: count(Math.floor(whole.low)),
                high: count(Math.ceil(whole.high)),
              })}
            </span>
          </p>
          <div
            className="relative mt-2 h-3.5 overflow-hidden rounded bg-accent/50"
            role="img"
            aria-label={t("{{known}} known, {{known2}} estimated", {
              known: whole.known,
              known2: Math.round(whole.known + whole.unseen),
            })}
          >
            <div className="h-full bg-primary" style={{ width: `${(100 * whole.known) / total}%` }} />
            <div
              className="absolute top-0 h-full w-[2px] bg-base-content"
              style={{ left: `${(100 * (whole.known + whole.unseen)) / total}%` }}
            />
          </div>
          <p className="dim flex justify-between text-[12.5px]">
            <span>{t("{{known}} known", { known: count(whole.known) })}</span>
            <span>{t("{{known}} estimated", { known: count(Math.round(whole.known + whole.unseen)) })}</span>
          </p>
        </>
      )}
      <div className="mt-2 flex gap-3 text-[13px]" role="group" aria-label={t("Estimates by")}>
        {(["kind", "place"] as const).map((b) => (
          <button
            key={b}
            type="button"
            aria-pressed={by === b}
            className={by === b ? "font-semibold underline underline-offset-4" : "link-quiet"}
            onClick={() => setBy(b)}
          >
            {t("by {{b}}", { b })}
          </button>
        ))}
      </div>
      <ul className="mt-1 text-[13px]">
        {rows.slice(0, 8).map((r) => (
          <Line key={r.label} row={r} />
        ))}
      </ul>
      <details className="dim mt-2 text-[12.5px]">
        <summary>{t("How this is reckoned, and on what it rests")}</summary>
        <p className="mt-1">
          {t(
            "{{which}}The fewer devices two independent sources have in common, the more there must be that neither has seen. It rests on this: that the sources are joined rightly device by device; that nothing came or went between them; and that within one kind every device is about as likely to be seen. Sources that tend to agree or to avoid each other are allowed for where three or more can show it; a source that sees less than a tenth of a kind is put aside for it. Where the overlap is too small it says so in place of a number.",
            { which: whole.method ? `${capital(word(whole.method))}. ` : "" },
          )}
        </p>
      </details>
    </section>
  );
}

function Line({ row }: { row: Guess }) {
  return (
    <li className="grid grid-cols-[1fr_auto] gap-x-3 border-t border-base-300 py-1">
      <span>{capital(row.label)}</span>
      {row.refusal ? (
        <span className="tag" title={row.refusal}>
          {t("no estimate for {{known}}", { known: count(row.known) })}
        </span>
      ) : (
        <span className="tabular-nums" title={row.method}>
          {row.unseen < 0.5 ? t("none") : t("about {{unseen}}", { unseen: count(Math.round(row.unseen)) })}{" "}
          <span className="dim">{t("beside {{known}}", { known: count(row.known) })}</span>
        </span>
      )}
    </li>
  );
}

interface DevicesProps {
  filter: string;
  at: string | undefined;
  mask: number | null;
  data: Data;
  clear: () => void;
}

function Devices({ filter, at, mask, data, clear }: DevicesProps) {
  const rows = useQuery({
    ...asks("/api/crosscheck/devices", {
      params: { query: { filter, as_of: at ?? "", ...(mask === null ? {} : { mask }) } },
    }),
    placeholderData: (before) => before,
  });
  const names = data.patterns
    .find((p) => p.mask === mask)
    ?.members.map((i) => data.sources[i]?.name)
    .join(", ");
  return (
    <section className="sheet mt-3 overflow-x-auto" aria-labelledby="blind-title">
      <div className="flex items-baseline gap-3 px-3.5 pt-2.5 pb-1">
        <h2 id="blind-title" className="text-[14px] font-semibold">
          {mask === null
            ? t("Unseen by a source that sees most of their kind")
            : names
              ? t("Seen by {{names}}, and by no other", { names })
              : t("Seen by none of these")}
        </h2>
        {mask !== null && (
          <button type="button" className="link-quiet text-[13px] font-semibold" onClick={clear}>
            {t("all blind spots")}
          </button>
        )}
      </div>
      {rows.error && <Problem error={rows.error} />}
      {!rows.data && !rows.error && <Waiting what={t("Working out why …")} />}
      {rows.data?.length === 0 && (
        <p className="dim px-3.5 pb-3 text-[13px]">
          {t("None: every source that should see a device does.")}
        </p>
      )}
      {rows.data && rows.data.length > 0 && (
        <Table
          list="unseen"
          label={t("Devices of the cross-check")}
          rows={rows.data}
          rowKey={(d) => d.asset}
          columns={[
            {
              key: "device",
              label: t("Device"),
              of: (d) => d.name,
              cell: (d) => (
                <DeviceLink asset={d.asset} className="link-quiet">
                  {d.name}
                </DeviceLink>
              ),
              mono: true,
              className: "whitespace-nowrap",
            },
            {
              key: "known_to",
              label: t("Known to"),
              of: (d) => d.known_to.map((k) => k.name).join(", "),
              cell: (d) => (
                <span className="inline-flex gap-1">
                  {d.known_to.map((k) => (
                    <span key={k.name} title={k.name}>
                      <EvidenceMark kind={k.kind} />
                    </span>
                  ))}
                </span>
              ),
            },
            {
              key: "unseen_by",
              label: t("Unseen by"),
              of: (d) => d.unseen_by.map((u) => u.name).join(", "),
              cell: (d) => (
                <>
                  {d.unseen_by.map((u) => (
                    <p key={u.name}>{u.name}</p>
                  ))}
                  {d.unseen_by.length === 0 && <span className="dim">{t("none that should")}</span>}
                </>
              ),
              className: "whitespace-nowrap",
            },
            {
              key: "most_likely_because",
              label: t("Most likely because"),
              of: (d) => d.unseen_by.map((u) => u.reason).join("; "),
              cell: (d) => d.unseen_by.map((u) => <p key={u.name}>{u.reason}</p>),
            },
            {
              key: "what_to_do",
              label: t("What to do"),
              of: (d) => d.unseen_by.map((u) => u.remedy).join("; "),
              cell: (d) =>
                d.unseen_by.map((u) => (
                  <p key={u.name}>
                    {u.where ? (
                      <a href={u.where} className="link-quiet font-semibold">
                        {u.remedy}
                      </a>
                    ) : (
                      <span className="dim">{u.remedy}</span>
                    )}
                  </p>
                )),
              className: "whitespace-nowrap",
            },
          ]}
        />
      )}
      {rows.data && rows.data.length >= 200 && (
        <p className="dim px-3.5 py-2 text-[13px]">
          {t("The first 200 are shown; narrow the selection to see others.")}
        </p>
      )}
    </section>
  );
}

function Disagreements({ filter }: { filter: string }) {
  const rows = useQuery(asks("/api/crosscheck/disagreements", { params: { query: { filter } } }));
  const shown = (field: string, value: string) =>
    field === "memory" && Number(value) ? memory(Number(value)) : value;
  if (!rows.data || rows.data.length === 0) return null;
  return (
    <section className="sheet mt-3 overflow-x-auto" aria-labelledby="differ-title">
      <h2 id="differ-title" className="px-3.5 pt-2.5 pb-1 text-[14px] font-semibold">
        {t("Where two sources disagree")}
      </h2>
      <ul>
        {rows.data.map((d) => (
          <li
            key={d.field + d.first + d.second}
            className="border-t border-base-300 px-3.5 py-1.5 text-[13px]"
          >
            <details>
              <summary>
                <b className="tabular-nums">{d.count}</b> × {d.field.replace(/_/g, " ")}: <b>{d.first}</b>{" "}
                {t("against")} <b>{d.second}</b>
              </summary>
              <Table
                list="disagreements"
                label={t("Where they disagree")}
                rows={d.devices}
                rowKey={(s) => s.asset}
                columns={[
                  {
                    key: "device",
                    label: t("Device"),
                    of: (s) => s.asset,
                    cell: (s) => (
                      <DeviceLink asset={s.asset} className="link-quiet font-semibold">
                        {t("Open")}
                      </DeviceLink>
                    ),
                  },
                  {
                    key: "d_first",
                    label: `${d.first}`,
                    of: (s) => s.first,
                    cell: (s) => shown(d.field, s.first),
                  },
                  {
                    key: "d_second",
                    label: `${d.second}`,
                    of: (s) => s.second,
                    cell: (s) => shown(d.field, s.second),
                  },
                ]}
              />
            </details>
          </li>
        ))}
      </ul>
    </section>
  );
}
