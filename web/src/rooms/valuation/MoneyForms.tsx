import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { asks } from "../../api/asking";
import { client, ok, type Schemas } from "../../api/client";
import { Dialog } from "../../parts/Dialog";
import { useDraft } from "../../parts/draft";
import { Choice, FormFoot, TextField } from "../../parts/Form";
import { capital, day } from "../../parts/format";
import { Heads, useDone } from "../../parts/Sheet";
import { Table } from "../../parts/table/Table";
import { LOCALE, t } from "../../words";

const MONTHS = Array.from({ length: 12 }, (_, n) =>
  new Date(2026, n, 1).toLocaleDateString(LOCALE, { month: "long" }),
);

/** The company's currency, when its year begins, and after how many days without use an installation is idle. */
export function LedgerForm({ close }: { close: () => void }) {
  const asked = useQuery(asks("/api/money/ledger"));
  return asked.data ? <Ledger key={asked.data.version} held={asked.data} close={close} /> : null;
}

function Ledger({ held, close }: { held: Schemas["LedgerOut"]; close: () => void }) {
  const { v, field, save, rest } = useDraft(
    {
      currency: held.currency,
      year_begins: String(held.year_begins),
      idle_after: String(held.idle_after),
    },
    { anew: "money", close },
  );
  const submit = save(async () => {
    await ok(
      client.PUT("/api/money/ledger", {
        body: {
          currency: v.currency,
          year_begins: Number(v.year_begins),
          idle_after: Number(v.idle_after),
          version: held.version,
        },
      }),
    );
    return t("Saved.");
  });
  return (
    <Dialog title={t("Currency and year")} close={close}>
      <form onSubmit={submit}>
        <TextField
          label={t("Currency of the company")}
          mono
          {...field("currency")}
          hint={t("Three letters (ISO 4217).")}
        />
        <Choice
          label={t("Its fiscal year begins in")}
          {...field("year_begins")}
          options={MONTHS.map((m, n) => [String(n + 1), m] as const)}
        />
        <TextField
          label={t("An installation is idle after days without use")}
          type="number"
          {...field("idle_after")}
        />
        {rest}
        <FormFoot close={close} />
      </form>
    </Dialog>
  );
}

/** A file's text, pasted or chosen. */
function FileText(props: {
  label: string;
  value: string;
  set: (text: string) => void;
  wrong?: string;
  hint: string;
}) {
  return (
    <>
      <TextField {...props} mono rows={6} />
      <input
        type="file"
        aria-label={t("Or choose a file")}
        accept=".csv,text/csv,text/plain"
        className="file-input file-input-sm mb-3 w-full"
        onChange={async (e) => {
          const file = e.target.files?.[0];
          if (file) props.set(await file.text());
        }}
      />
    </>
  );
}

/** Rates of exchange by day, from a file. */
export function RatesForm({ close }: { close: () => void }) {
  const { v, field, save, wrong, rest } = useDraft({ text: "" }, { anew: "money", close });
  const { text } = v;
  const asked = useQuery(asks("/api/money/rates"));
  const submit = save(async () => {
    const told = await ok(client.POST("/api/money/rates", { body: { text } }));
    return t("{{taken}} rates are taken in.", { taken: told.taken });
  });
  return (
    <Dialog title={t("Rates of exchange")} close={close}>
      <div className="mb-3 max-h-[30vh] overflow-auto">
        <Table
          list="rates"
          label={t("Rates")}
          rows={asked.data ?? []}
          rowKey={(r) => `${r.day}${r.currency}`}
          columns={[
            { key: "from", label: t("From"), of: (r) => r.day, cell: (r) => day(r.day) },
            { key: "currency", label: t("Currency"), of: (r) => r.currency, mono: true },
            {
              key: "one_unit_of_ours_buys",
              label: t("One unit of ours buys"),
              of: (r) => r.rate,
              cell: (r) => Number(r.rate),
              num: true,
              mono: true,
            },
          ]}
        />
      </div>
      <form onSubmit={submit}>
        <FileText
          label={t("More rates")}
          {...field("text")}
          wrong={wrong("file")}
          hint={t("date,currency,rate: 2026-01-02,NOK,11.60. The same day and currency replaces.")}
        />
        {rest}
        <FormFoot close={close} save={t("Take in")} />
      </form>
    </Dialog>
  );
}

/** What a kilowatt hour costs, and what devices of each kind take up. */
export function EnergyForm({ close }: { close: () => void }) {
  const asked = useQuery(asks("/api/valuation/energy"));
  return asked.data ? <EnergyEditor key={asked.data.version} held={asked.data} close={close} /> : null;
}

function EnergyEditor({ held, close }: { held: Schemas["EnergyOut"]; close: () => void }) {
  const { v, field, save, wrong, rest } = useDraft(
    { price: String(held.price || "") },
    { anew: "valuation", close },
  );
  const { price } = v;
  const [rows, setRows] = useState(
    Object.entries(held.kinds).map(([kind, [watts = 0, hours = 0]]) => [kind, String(watts), String(hours)]),
  );
  const submit = save(async () => {
    const kinds = Object.fromEntries(
      rows
        .filter(([kind]) => kind)
        .map(([kind = "", watts, hours]) => [kind, [Number(watts), Number(hours)] as [number, number]]),
    );
    await ok(client.PUT("/api/valuation/energy", { body: { price, kinds, version: held.version } }));
    return t("What energy costs is set.");
  });
  return (
    <Dialog title={t("Energy")} close={close}>
      <form onSubmit={submit}>
        <TextField label={t("Price of a kilowatt hour")} {...field("price")} placeholder="0.31" />
        <table className="grid-table mb-2">
          <Heads names={[t("Kind"), t("Watts"), t("Hours a day")]} />
          <tbody>
            {rows.map((row, n) => (
              <tr key={`${n}`}>
                {[t("Kind"), t("Watts"), t("Hours a day")].map((label, column) => (
                  <td key={label}>
                    <input
                      aria-label={t("{{label}}, line {{n}}", { label, n: n + 1 })}
                      className="input input-sm w-full"
                      value={row[column] ?? ""}
                      onChange={(e) =>
                        setRows(
                          rows.map((r, m) =>
                            m === n ? r.map((x, c) => (c === column ? e.target.value : x)) : r,
                          ),
                        )
                      }
                    />
                  </td>
                ))}
              </tr>
            ))}
          </tbody>
        </table>
        <button type="button" className="btn btn-sm mb-2" onClick={() => setRows([...rows, ["", "", "24"]])}>
          {t("Another kind")}
        </button>
        {wrong("kinds") && (
          <p role="alert" className="mb-2 text-[12.5px] font-semibold text-error">
            {wrong("kinds")}
          </p>
        )}
        {rest}
        <FormFoot close={close} />
      </form>
    </Dialog>
  );
}

/** Until when makers support their systems, from a file. */
export function SupportForm({ close }: { close: () => void }) {
  const { v, field, save, wrong, rest } = useDraft({ text: "" }, { anew: "lifecycle", close });
  const { text } = v;
  const done = useDone("lifecycle");
  const asked = useQuery(asks("/api/lifecycle/support-ends"));
  const submit = save(async () => {
    const told = await ok(client.POST("/api/lifecycle/support-ends", { body: { text } }));
    return t("{{taken}} ends of support are taken in.", { taken: told.taken });
  });
  return (
    <Dialog title={t("Ends of support")} close={close}>
      <div className="mb-3 max-h-[30vh] overflow-auto">
        <Table
          list="support-ends"
          label={t("When support ends")}
          rows={asked.data ?? []}
          rowKey={(s) => s.id}
          columns={[
            {
              key: "system_or_product",
              label: t("System or product"),
              of: (s) => s.name,
              cell: (s) => capital(s.name),
            },
            {
              key: "release",
              label: t("Release"),
              of: (s) => s.release || t("every"),

              mono: true,
            },
            {
              key: "came_out",
              label: t("Came out"),
              of: (s) => s.released,
              cell: (s) => (s.released ? day(s.released) : ""),
            },
            {
              key: "supported_until",
              label: t("Supported until"),
              of: (s) => s.day,
              cell: (s) => (s.day ? day(s.day) : ""),
            },
            {
              key: "do",
              label: "",
              cell: (s) => (
                <button
                  type="button"
                  className="link-quiet font-semibold"
                  aria-label={t("Drop {{name}} {{release}}", { name: s.name, release: s.release })}
                  onClick={() =>
                    void done(
                      () =>
                        ok(
                          client.DELETE("/api/lifecycle/support-ends/{number}", {
                            params: { path: { number: s.id } },
                          }),
                        ),
                      t("Dropped."),
                    )
                  }
                >
                  {t("Drop")}
                </button>
              ),
              num: true,
            },
          ]}
        />
      </div>
      <form onSubmit={submit}>
        <FileText
          label={t("More ends")}
          {...field("text")}
          wrong={wrong("file")}
          hint={t(
            "name,release,day: Debian GNU/Linux,12,2028-06-30. A release stands for all that begin with it.",
          )}
        />
        {rest}
        <FormFoot close={close} save={t("Take in")} />
      </form>
    </Dialog>
  );
}
