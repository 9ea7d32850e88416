import type { Claims, Row } from "../../api/types";
import { shownMoment } from "../../parts/days";
import { useDial } from "../../parts/dial";
import { EvidenceMark } from "../../parts/Evidence";
import { bits, bytes, capital, memory, moment, shortDay } from "../../parts/format";
import { Section } from "../../parts/Section";
import { Table } from "../../parts/table/Table";
import { Fact } from "../../parts/Why";
import { t } from "../../words";

export type Item = Record<string, string | number | boolean | null> & { source_kind: string; since: string };
export type Items = Record<string, Item[]>;

interface Props {
  plate: Row;
  claims: Claims;
}

interface IdentityProps extends Props {
  guess: string;
  sure: number;
  reasons: string[];
  matched: string | undefined;
}

export function IdentitySection({ plate, claims, guess, sure, reasons, matched }: IdentityProps) {
  return (
    <Section id="identity" title={t("Identity")}>
      <dl className="facts">
        <Fact label={t("Host name")} field="name" value={plate.name} claims={claims} mono />
        <Fact label={t("Domain")} field="domain" value={plate.domain} claims={claims} mono />
        <Fact label={t("Serial number")} field="serial" value={plate.serial} claims={claims} mono />
        <Fact label={t("Hardware UUID")} field="uuid" value={plate.uuid} claims={claims} mono />
        <Fact label={t("Manufacturer")} field="manufacturer" value={plate.manufacturer} claims={claims} />
        <Fact label={t("Model")} field="model" value={plate.model} claims={claims} />
        <Fact
          label={t("Kind")}
          field="kind"
          value={plate.kind ? capital(String(plate.kind)) : null}
          claims={claims}
        />
        {guess && (
          <>
            <dt>{t("Taken for a")}</dt>
            <dd className="col-span-2 dim">
              {t("{{guess}}, {{sure}} % sure: {{reasons}}.", { guess, sure, reasons: reasons.join("; ") })}
            </dd>
          </>
        )}
        {matched && (
          <>
            <dt>{t("Held to be one because")}</dt>
            <dd className="col-span-2 dim">{matched}.</dd>
          </>
        )}
      </dl>
    </Section>
  );
}

export function HardwareSection({ plate, claims, items }: Props & { items: Items }) {
  const disks = items.disks ?? [];
  const systems = items.filesystems ?? [];
  const system = [plate["os.name"], plate["os.version"]].filter(Boolean).join(" ");
  return (
    <Section id="hardware" title={t("Hardware and system")}>
      <dl className="facts">
        <Fact label={t("System")} field="os_name" value={system || null} claims={claims} />
        <Fact label={t("Kernel")} field="os_kernel" value={plate["os.kernel"]} claims={claims} mono />
        <Fact
          label={t("Processor")}
          field="processor"
          value={plate.processor ? `${plate.processor}` : null}
          claims={claims}
        />
        <Fact label={t("Cores")} field="cores" value={plate.cores} claims={claims} />
        <Fact
          label={t("Memory")}
          field="memory"
          type="memory"
          value={plate.memory ? memory(Number(plate.memory)) : null}
          claims={claims}
        />
        {plate.description && (
          <Fact label={t("Says of itself")} field="description" value={plate.description} claims={claims} />
        )}
      </dl>
      {disks.length > 0 && (
        <div className="mt-2">
          <Table
            list="dossier-disks"
            label={t("Disks")}
            rows={disks}
            rowKey={(d) => String(d.name)}
            columns={[
              { key: "disk", label: t("Disk"), of: (d) => d.name, mono: true },
              { key: "model", label: t("Model"), of: (d) => d.model },
              { key: "serial_number", label: t("Serial number"), of: (d) => d.serial, mono: true },
              {
                key: "size",
                label: t("Size"),
                of: (d) => d.size,
                cell: (d) => (d.size ? bytes(Number(d.size)) : ""),
                num: true,
              },
            ]}
          />
        </div>
      )}
      {systems.length > 0 && (
        <div className="mt-2">
          <Table
            list="dossier-filesystems"
            label={t("File systems")}
            rows={systems}
            rowKey={(f) => String(f.mount)}
            columns={[
              { key: "file_system", label: t("File system"), of: (f) => f.mount, mono: true },
              { key: "type", label: t("Type"), of: (f) => f.type },
              {
                key: "size",
                label: t("Size"),
                of: (f) => f.size,
                cell: (f) => (f.size ? bytes(Number(f.size)) : ""),
                num: true,
              },
              {
                key: "full",
                label: t("Full"),
                of: (f) => f.full,
                cell: (f) => f.full !== null && <Full percent={Number(f.full)} />,
              },
            ]}
          />
        </div>
      )}
    </Section>
  );
}

function Full({ percent }: { percent: number }) {
  const tone =
    percent >= 90 ? "var(--color-error)" : percent >= 75 ? "var(--color-accent)" : "var(--color-info)";
  return (
    <span className="flex items-center gap-2">
      <span className="h-[7px] flex-1 overflow-hidden rounded-full bg-[var(--stone-2)]">
        <span className="block h-full rounded-full" style={{ width: `${percent}%`, background: tone }} />
      </span>
      <span className="w-10 text-right text-[12.5px] tabular-nums">{percent} %</span>
    </span>
  );
}

export function NetworkSection({ plate, claims, items }: Props & { items: Items }) {
  const { at } = useDial();
  const addresses = items.addresses ?? [];
  const addressesOf = (i: Item) =>
    addresses
      .filter((a) => a.interface === i.name)
      .map((a) => `${a.address}${a.prefix ? `/${a.prefix}` : ""}`)
      .join(" ");
  const certificates = items.certificates ?? [];
  const ports = items.ports ?? [];
  return (
    <Section id="network" title={t("Network")}>
      <dl className="facts">
        <Fact label={t("Met at")} field="address" value={plate.address} claims={claims} mono />
        <Fact label={t("Hardware address")} field="mac" value={plate.mac} claims={claims} mono />
      </dl>
      {(items.interfaces ?? []).length > 0 && (
        <div className="mt-2">
          <Table
            list="dossier-interfaces"
            label={t("Interfaces")}
            rows={items.interfaces ?? []}
            rowKey={(i) => String(i.name)}
            rowClass={(i) => (i.up ? "" : "faint")}
            columns={[
              { key: "interface", label: t("Interface"), of: (i) => i.name, mono: true },
              { key: "hardware_address", label: t("Hardware address"), of: (i) => i.mac, mono: true },
              {
                key: "address",
                label: t("Address"),
                of: addressesOf,
                mono: true,
              },
              {
                key: "speed",
                label: t("Speed"),
                of: (i) => i.speed,
                cell: (i) => (i.speed ? bits(Number(i.speed)) : ""),
                num: true,
                className: "whitespace-nowrap",
              },
              {
                key: "do",
                label: "",
                cell: (i) => (i.up ? <EvidenceMark kind={i.source_kind} /> : t("down")),
                className: "text-right",
              },
            ]}
          />
        </div>
      )}
      {ports.length > 0 && (
        <p className="mt-2 text-[13px]">
          <span className="dim">{t("Listens on")} </span>
          {ports.map((p) => (
            <span key={`${p.protocol}${p.port}`} className="mono mr-2 inline-block">
              {p.port}
              <span className="faint">
                /{p.protocol}
                {p.process ? ` ${p.process}` : ""}
              </span>
            </span>
          ))}
        </p>
      )}
      {certificates.map((c) => {
        const left = c.ends
          ? Math.round((new Date(String(c.ends)).getTime() - shownMoment(at)) / 86_400_000)
          : null;
        return (
          <p key={String(c.port)} className="mt-1 text-[13px]">
            <span className="dim">
              {t("Certificate on")} {c.port}:{" "}
            </span>
            <span className="mono">{c.subject}</span>
            {c.ends && (
              <span
                className={`tag ml-2 ${left !== null && left < 0 ? "bad" : left !== null && left < 30 ? "warn" : ""}`}
              >
                {left !== null && left < 0 ? t("ran out") : t("runs out")} {shortDay(String(c.ends))}
                {left !== null && left >= 0 && left < 60 ? t(", in {{left}} days", { left }) : ""}
              </span>
            )}
          </p>
        );
      })}
    </Section>
  );
}

export function PeopleSection({ plate, claims, items }: Props & { items: Items }) {
  return (
    <Section id="people" title={t("People and place")}>
      <dl className="facts">
        <Fact label={t("Holder")} field="person" value={plate.person} claims={claims} />
        <Fact label={t("Department")} field="department" value={plate.department} claims={claims} />
        {plate.organisation && (
          <Fact label={t("Organisation")} field="organisation" value={plate.organisation} claims={claims} />
        )}
        <Fact label={t("Place")} field="place" value={plate.place} claims={claims} />
        {(items.signins ?? []).map((s) => (
          <div key={String(s.account)} className="contents">
            <dt>{t("Signed in")}</dt>
            <dd className="col-span-2">
              <span className="mono">{s.account}</span>{" "}
              <span className="dim">
                {moment(String(s.at))}
                {s.origin ? t(" from {{origin}}", { origin: s.origin }) : ""}
              </span>
            </dd>
          </div>
        ))}
      </dl>
    </Section>
  );
}

export function AccountsSection({ items }: { items: Items }) {
  const accounts = items.accounts ?? [];
  if (accounts.length === 0) return null;
  const people = accounts.filter((a) => a.enabled);
  return (
    <Section
      id="accounts"
      title={t("Accounts that can sign in, {{people}} of {{accounts}}", {
        people: people.length,
        accounts: accounts.length,
      })}
      flush
    >
      <div className="mt-2">
        <Table
          list="dossier-accounts"
          label={t("Accounts")}
          rows={people}
          rowKey={(a) => String(a.name)}
          columns={[
            { key: "account", label: t("Account"), of: (a) => a.name, mono: true },
            { key: "name", label: t("Name"), of: (a) => a.full_name },
            {
              key: "rights",
              label: t("Rights"),
              of: (a) => (a.administrator ? t("administrator") : t("ordinary")),
              cell: (a) =>
                a.administrator ? (
                  <span className="tag warn">{t("administrator")}</span>
                ) : (
                  <span className="dim">{t("ordinary")}</span>
                ),
            },
            {
              key: "since",
              label: t("Since"),
              of: (a) => a.since,
              cell: (a) => shortDay(a.since),
              className: "dim whitespace-nowrap",
            },
          ]}
        />
      </div>
    </Section>
  );
}
