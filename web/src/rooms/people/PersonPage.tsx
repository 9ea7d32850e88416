import { useQuery } from "@tanstack/react-query";
import { Link, useParams } from "@tanstack/react-router";
import { asks } from "../../api/asking";
import { DeviceLink } from "../../parts/DeviceLink";
import { useDial } from "../../parts/dial";
import { EstateNav } from "../../parts/EstateNav";
import { capital, day, plural } from "../../parts/format";
import { Unanswered } from "../../parts/Problem";
import { Sheet } from "../../parts/Sheet";
import { Table } from "../../parts/table/Table";
import { t } from "../../words";

/** One person: what they hold, where they sign in, what they held before. */
export function PersonPage() {
  const { person: name } = useParams({ strict: false }) as { person: string };
  const { at } = useDial();
  const asked = useQuery(asks("/api/persons/one", { params: { query: { name, as_of: at } } }));
  if (asked.error || !asked.data) return <Unanswered asked={asked} what={t("Reading what they have …")} />;
  const p = asked.data;
  const device = (id: number, words: string) => (
    <DeviceLink asset={id} at={at}>
      {words}
    </DeviceLink>
  );
  return (
    <div className="mx-auto w-full max-w-[1280px] px-4 pb-10">
      <EstateNav />
      <div className="flex flex-wrap items-baseline gap-x-4 gap-y-1 pt-1">
        <h1>{p.name}</h1>
        <span className="dim">{[p.title, p.department].filter(Boolean).join(", ")}</span>
        {p.left_at && <span className="tag warn">{t("left {{left_at}}", { left_at: day(p.left_at) })}</span>}
        <span className="flex-1" />
        <Link to="/estate" search={{ at, q: p.filter }} className="btn btn-sm">
          {plural(p.held.length, "device")}
        </Link>
      </div>
      <p className="dim pb-3 text-[13px]">
        {p.sources.length
          ? t("Known from {{sources}}", { sources: p.sources.join(", ") })
          : t("Known to no system: named only as a holder")}
        {p.account && (
          <>
            {t("; signs in as")} <span className="mono">{p.account}</span>
          </>
        )}
        {p.email && (
          <>
            ; <span className="mono">{p.email}</span>
          </>
        )}
        {p.groups.length > 0 && t("; in {{groups}}", { groups: p.groups.join(", ") })}.
      </p>
      {p.left_at && p.held.length > 0 && (
        <p className="tag warn mb-3 !block !px-3 !py-2 !text-[13px]">
          {t("{{devices}} still to be given back.", { devices: plural(p.held.length, "device") })}
        </p>
      )}
      <div className="grid items-start gap-3 lg:grid-cols-2">
        <Sheet id="held" title={t("Holds")} className="">
          {p.held.length === 0 ? (
            <p className="dim px-3.5 pb-3 text-[13px]">
              {t("Nothing{{which}}.", { which: at ? t(" on that day") : t(" now") })}
            </p>
          ) : (
            <Table
              list="person-holds"
              label={t("Holds")}
              rows={p.held}
              rowKey={(d) => d.id}
              columns={[
                {
                  key: "device",
                  label: t("Device"),
                  of: (d) => d.name ?? d.number,
                  cell: (d) => device(d.id, d.name ?? d.number),
                },
                { key: "kind", label: t("Kind"), of: (d) => d.kind, cell: (d) => capital(d.kind ?? "") },
                { key: "place", label: t("Place"), of: (d) => d.place },
              ]}
            />
          )}
        </Sheet>
        <Sheet id="used" title={t("Signed in last on")} className="">
          {p.used.length === 0 ? (
            <p className="dim px-3.5 pb-3 text-[13px]">
              {p.account ? t("No device of the register.") : t("Their account is not known.")}
            </p>
          ) : (
            <Table
              list="person-signed-in"
              label={t("Signed in last on")}
              rows={p.used}
              rowKey={(d) => d.id}
              columns={[
                {
                  key: "device",
                  label: t("Device"),
                  of: (d) => d.name ?? d.number,
                  cell: (d) => device(d.id, d.name ?? d.number),
                },
                { key: "kind", label: t("Kind"), of: (d) => d.kind, cell: (d) => capital(d.kind ?? "") },
                { key: "place", label: t("Place"), of: (d) => d.place },
                {
                  key: "whose",
                  label: t("Whose"),
                  of: (d) => (d.theirs ? t("theirs") : t("not held by them")),
                  cell: (d) =>
                    d.theirs ? t("theirs") : <span className="tag note">{t("not held by them")}</span>,
                },
              ]}
            />
          )}
        </Sheet>
        <Sheet id="before" title={t("Has held")} hint={t("from the evidence, with its days")} className="">
          <Table
            list="person-has-held"
            label={t("Has held")}
            rows={p.before}
            rowKey={(d) => `${d.id}-${d.since}`}
            columns={[
              {
                key: "device",
                label: t("Device"),
                of: (d) => d.name ?? t("asset {{id}}", { id: d.id }),
                cell: (d) => device(d.id, d.name ?? t("asset {{id}}", { id: d.id })),
              },
              { key: "from", label: t("From"), of: (d) => d.since, cell: (d) => day(d.since) },
              {
                key: "until",
                label: t("Until"),
                of: (d) => d.until,
                cell: (d) => (d.until ? day(d.until) : <span className="tag ok">{t("still")}</span>),
              },
            ]}
          />
        </Sheet>
        {p.software.length > 0 && (
          <Sheet id="software" title={t("Installed for them alone")} className="">
            <Table
              list="person-software"
              label={t("Installed for them alone")}
              rows={p.software}
              rowKey={(s) => s.name}
              columns={[
                { key: "product", label: t("Product"), of: (s) => s.name },
                { key: "devices", label: t("Devices"), of: (s) => s.devices, num: true },
              ]}
            />
          </Sheet>
        )}
      </div>
    </div>
  );
}
