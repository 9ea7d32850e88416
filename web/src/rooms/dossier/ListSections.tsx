import { useState } from "react";
import { believed, type Claims } from "../../api/types";
import { useDial } from "../../parts/dial";
import {
  bits,
  bytes,
  capital,
  day as dayText,
  iso,
  memory,
  minorAmount,
  moment,
  shortDay,
} from "../../parts/format";
import { useMay } from "../../parts/me";
import { type ListColumn, useRegistry } from "../../parts/registry";
import { Section } from "../../parts/Section";
import type { Column } from "../../parts/table/column";
import { Table } from "../../parts/table/Table";
import { Fact } from "../../parts/Why";
import { LOCALE, t } from "../../words";
import { AcquisitionForm } from "./AcquisitionForm";
import type { Item, Items } from "./Sections";

const BY_TYPE: Record<string, (value: Item[string]) => string> = {
  "yes/no": (value) => (value ? "yes" : "no"),
  percent: (value) => `${value} %`,
  day: (value) => shortDay(String(value)),
  moment: (value) => moment(String(value)),
  memory: (value) => memory(Number(value)),
  bytes: (value) => bytes(Number(value)),
  bits: (value) => bits(Number(value)),
};

/** A value of a list as it is read: in its unit, by what its type is. */
function shown(column: ListColumn, value: Item[string]): string {
  if (value === null || value === "") return column.none;
  const text = BY_TYPE[column.type]?.(value) ?? String(value);
  return column.unit ? `${text} ${column.unit}` : text;
}

const DATES = ["day", "moment"];
const SIZES = ["memory", "bytes", "bits", "percent", "number"];
const MONO_TYPES = ["hardware address", "address", "addresses"];
const MONO_NAMES = ["serial", "uuid", "key"];

function isMono(column: ListColumn): boolean {
  return MONO_TYPES.includes(column.type) || MONO_NAMES.includes(column.name);
}

const SHOWN = 12;

/** Lists that only some devices have, as Tarn describes them: shown where there is something to show. */
export function ListSections({ items }: { items: Items }) {
  const lists = useRegistry().data?.lists ?? [];
  return (
    <>
      {lists.map(({ name, heading, columns }) => {
        const rows = items[name] ?? [];
        return heading && rows.length ? (
          <Section key={name} id={name} title={`${heading}, ${rows.length}`} flush>
            <List list={name} label={heading} rows={rows} columns={columns} />
          </Section>
        ) : null;
      })}
    </>
  );
}

interface ListProps {
  list: string;
  label: string;
  rows: Item[];
  columns: ListColumn[];
}

function List({ list, label, rows, columns }: ListProps) {
  const [all, setAll] = useState(false);
  return (
    <>
      <Table
        list={`dossier-${list}`}
        label={label}
        rows={all ? rows : rows.slice(0, SHOWN)}
        rowKey={(row) => columns.map((c) => row[c.name]).join("|")}
        columns={columns.map(
          (c, place): Column<Item> => ({
            key: c.name,
            label: c.label,
            of: (row) => row[c.name],
            cell: (row) => {
              const text = shown(c, row[c.name] ?? null);
              if (place > 0 || !row.link) return text;
              return (
                <a
                  className="link-quiet font-semibold"
                  href={String(row.link)}
                  rel="noreferrer"
                  target="_blank"
                >
                  {text}
                </a>
              );
            },
            num: SIZES.includes(c.type),
            mono: isMono(c),
            className: DATES.includes(c.type) ? "whitespace-nowrap" : undefined,
          }),
        )}
      />
      {rows.length > SHOWN && (
        <button
          type="button"
          className="link-quiet px-3.5 py-1.5 text-[13px] font-semibold"
          aria-expanded={all}
          onClick={() => setAll(!all)}
        >
          {all ? t("The first {{SHOWN}}", { SHOWN }) : t("{{rows}} more", { rows: rows.length - SHOWN })}
        </button>
      )}
    </>
  );
}

const when = (value: unknown) => (value ? moment(iso(Number(value))) : "");
const FACTS: [field: string, label: string, show?: (value: unknown) => string][] = [
  ["pages", t("Pages printed"), (v) => Number(v).toLocaleString(LOCALE)],
  ["battery", t("Battery"), (v) => `${v} %`],
  ["battery_state", t("Battery is")],
  ["runtime", t("Would last"), (v) => `${v} minutes`],
  ["booted", t("Last start"), (v) => when(Number(v))],
  ["checked_in", t("Last check-in"), (v) => when(Number(v))],
  ["signed_in", t("Last sign-in to the directory"), (v) => when(Number(v))],
  ["disabled", t("Disabled in the directory"), (v) => (v ? "yes" : "no")],
  ["encrypted", t("Encrypted"), (v) => (v ? "yes" : "no")],
  ["passcode", t("Passcode set"), (v) => (v ? "yes" : "no")],
  ["supervised", t("Supervised"), (v) => (v ? "yes" : "no")],
  ["site", t("Site of its management")],
  ["managed_by", t("Managed by")],
  ["unit", t("Organisational unit")],
];

/** What systems that manage devices say, and what devices that meter themselves tell. */
export function ManagementSection({ claims }: { claims: Claims }) {
  return <FactsSection id="management" title={t("Condition and management")} facts={FACTS} claims={claims} />;
}

/** How it was bought, and until when its maker answers for it. */
export function AcquisitionSection({ claims, asset }: { claims: Claims; asset: number }) {
  const may = useMay("plan");
  const { at } = useDial();
  const [typing, setTyping] = useState(false);
  const currency = String(believed(claims, "currency") ?? "EUR");
  const onDay = (v: unknown) => dayText(iso(Number(v)));
  const facts: typeof FACTS = [
    ["warranty_end", t("Warranty until"), onDay],
    ["bought_at", t("Bought"), onDay],
    ["price", t("Price"), (v) => minorAmount(Number(v), currency)],
    ["supplier", t("Supplier")],
    ["order", t("Order")],
    ["cost_centre", t("Cost centre")],
  ];
  const change = (
    <button type="button" className="link-quiet text-[12.5px] font-semibold" onClick={() => setTyping(true)}>
      {t("Type it")}
    </button>
  );
  return (
    <>
      <FactsSection
        id="acquisition"
        title={t("Acquisition")}
        facts={facts}
        claims={claims}
        foot={may && !at ? change : undefined}
      />
      {typing && <AcquisitionForm asset={asset} claims={claims} close={() => setTyping(false)} />}
    </>
  );
}

function FactsSection(props: {
  id: string;
  title: string;
  facts: typeof FACTS;
  claims: Claims;
  foot?: React.ReactNode;
}) {
  const { claims } = props;
  const known = props.facts.filter(([field]) => claims[field]?.said.length);
  if (known.length === 0 && !props.foot) return null;
  return (
    <Section id={props.id} title={props.title}>
      <dl className="facts">
        {known.map(([field, label, show]) => {
          const value = believed(claims, field);
          const shown = value === null ? null : show ? show(value) : capital(String(value));
          return <Fact key={field} label={label} field={field} value={shown} claims={claims} show={show} />;
        })}
      </dl>
      {props.foot}
    </Section>
  );
}
