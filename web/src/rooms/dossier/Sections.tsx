import type { Claims, Row } from "../../api/types";
import { shownMoment } from "../../parts/days";
import { useDial } from "../../parts/dial";
import { EvidenceMark } from "../../parts/Evidence";
import { bits, bytes, capital, memory, moment, shortDay } from "../../parts/format";
import { Section } from "../../parts/Section";
import { Table } from "../../parts/table/Table";
import { Fact } from "../../parts/Why";

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
    <Section id="identity" title="Identity">
      <dl className="facts">
        <Fact label="Host name" field="name" value={plate.name} claims={claims} mono />
        <Fact label="Domain" field="domain" value={plate.domain} claims={claims} mono />
        <Fact label="Serial number" field="serial" value={plate.serial} claims={claims} mono />
        <Fact label="Hardware UUID" field="uuid" value={plate.uuid} claims={claims} mono />
        <Fact label="Manufacturer" field="manufacturer" value={plate.manufacturer} claims={claims} />
        <Fact label="Model" field="model" value={plate.model} claims={claims} />
        <Fact
          label="Kind"
          field="kind"
          value={plate.kind ? capital(String(plate.kind)) : null}
          claims={claims}
        />
        {guess && (
          <>
            <dt>Taken for a</dt>
            <dd className="col-span-2 dim">
              {guess}, {sure} % sure: {reasons.join("; ")}.
            </dd>
          </>
        )}
        {matched && (
          <>
            <dt>Held to be one because</dt>
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
    <Section id="hardware" title="Hardware and system">
      <dl className="facts">
        <Fact label="System" field="os_name" value={system || null} claims={claims} />
        <Fact label="Kernel" field="os_kernel" value={plate["os.kernel"]} claims={claims} mono />
        <Fact
          label="Processor"
          field="processor"
          value={plate.processor ? `${plate.processor}` : null}
          claims={claims}
        />
        <Fact label="Cores" field="cores" value={plate.cores} claims={claims} />
        <Fact
          label="Memory"
          field="memory"
          type="memory"
          value={plate.memory ? memory(Number(plate.memory)) : null}
          claims={claims}
        />
        {plate.description && (
          <Fact label="Says of itself" field="description" value={plate.description} claims={claims} />
        )}
      </dl>
      {disks.length > 0 && (
        <div className="mt-2">
          <Table
            list="dossier-disks"
            label="Disks"
            rows={disks}
            rowKey={(d) => String(d.name)}
            columns={[
              { key: "disk", label: "Disk", of: (d) => d.name, mono: true },
              { key: "model", label: "Model", of: (d) => d.model },
              { key: "serial_number", label: "Serial number", of: (d) => d.serial, mono: true },
              {
                key: "size",
                label: "Size",
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
            label="File systems"
            rows={systems}
            rowKey={(f) => String(f.mount)}
            columns={[
              { key: "file_system", label: "File system", of: (f) => f.mount, mono: true },
              { key: "type", label: "Type", of: (f) => f.type },
              {
                key: "size",
                label: "Size",
                of: (f) => f.size,
                cell: (f) => (f.size ? bytes(Number(f.size)) : ""),
                num: true,
              },
              {
                key: "full",
                label: "Full",
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
    <Section id="network" title="Network">
      <dl className="facts">
        <Fact label="Met at" field="address" value={plate.address} claims={claims} mono />
        <Fact label="Hardware address" field="mac" value={plate.mac} claims={claims} mono />
      </dl>
      {(items.interfaces ?? []).length > 0 && (
        <div className="mt-2">
          <Table
            list="dossier-interfaces"
            label="Interfaces"
            rows={items.interfaces ?? []}
            rowKey={(i) => String(i.name)}
            rowClass={(i) => (i.up ? "" : "faint")}
            columns={[
              { key: "interface", label: "Interface", of: (i) => i.name, mono: true },
              { key: "hardware_address", label: "Hardware address", of: (i) => i.mac, mono: true },
              {
                key: "address",
                label: "Address",
                of: addressesOf,
                mono: true,
              },
              {
                key: "speed",
                label: "Speed",
                of: (i) => i.speed,
                cell: (i) => (i.speed ? bits(Number(i.speed)) : ""),
                num: true,
                className: "whitespace-nowrap",
              },
              {
                key: "do",
                label: "",
                cell: (i) => (i.up ? <EvidenceMark kind={i.source_kind} /> : "down"),
                className: "text-right",
              },
            ]}
          />
        </div>
      )}
      {ports.length > 0 && (
        <p className="mt-2 text-[13px]">
          <span className="dim">Listens on </span>
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
            <span className="dim">Certificate on {c.port}: </span>
            <span className="mono">{c.subject}</span>
            {c.ends && (
              <span
                className={`tag ml-2 ${left !== null && left < 0 ? "bad" : left !== null && left < 30 ? "warn" : ""}`}
              >
                {left !== null && left < 0 ? "ran out" : "runs out"} {shortDay(String(c.ends))}
                {left !== null && left >= 0 && left < 60 ? `, in ${left} days` : ""}
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
    <Section id="people" title="People and place">
      <dl className="facts">
        <Fact label="Holder" field="person" value={plate.person} claims={claims} />
        <Fact label="Department" field="department" value={plate.department} claims={claims} />
        {plate.organisation && (
          <Fact label="Organisation" field="organisation" value={plate.organisation} claims={claims} />
        )}
        <Fact label="Place" field="place" value={plate.place} claims={claims} />
        {(items.signins ?? []).map((s) => (
          <div key={String(s.account)} className="contents">
            <dt>Signed in</dt>
            <dd className="col-span-2">
              <span className="mono">{s.account}</span>{" "}
              <span className="dim">
                {moment(String(s.at))}
                {s.origin ? ` from ${s.origin}` : ""}
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
    <Section id="accounts" title={`Accounts that can sign in, ${people.length} of ${accounts.length}`} flush>
      <div className="mt-2">
        <Table
          list="dossier-accounts"
          label="Accounts"
          rows={people}
          rowKey={(a) => String(a.name)}
          columns={[
            { key: "account", label: "Account", of: (a) => a.name, mono: true },
            { key: "name", label: "Name", of: (a) => a.full_name },
            {
              key: "rights",
              label: "Rights",
              of: (a) => (a.administrator ? "administrator" : "ordinary"),
              cell: (a) =>
                a.administrator ? (
                  <span className="tag warn">administrator</span>
                ) : (
                  <span className="dim">ordinary</span>
                ),
            },
            {
              key: "since",
              label: "Since",
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
