import { useState } from "react";
import type { Claims } from "../../api/types";
import { useDial } from "../../parts/dial";
import { capital, day as dayText, iso, memory, minorAmount, moment, shortDay } from "../../parts/format";
import { useMay } from "../../parts/me";
import { Fact } from "../../parts/Why";
import { AcquisitionForm } from "../steps/AcquisitionForm";
import { type Item, type Items, Section } from "./Sections";

type Column = [key: string, label: string, show?: (value: Item[string]) => string];

const yes = (value: Item[string]) => (value === null ? "" : value ? "yes" : "no");
const percent = (value: Item[string]) => (value === null ? "not told" : `${value} %`);
const day = (value: Item[string]) => (value ? shortDay(iso(Number(value))) : "");
const when = (value: Item[string]) => (value ? moment(iso(Number(value))) : "");

/** Lists that only some devices have: shown where there is something to show. */
const LISTS: [section: string, title: string, columns: Column[]][] = [
  [
    "tickets",
    "Tickets",
    [
      ["number", "Ticket"],
      ["title", "About"],
      ["state", "State"],
      ["opened", "Opened", day],
      ["priority", "Priority"],
    ],
  ],
  [
    "supplies",
    "Supplies",
    [
      ["name", "Supply"],
      ["sort", "Sort"],
      ["level", "Left", percent],
    ],
  ],
  [
    "guests",
    "Guests",
    [
      ["name", "Guest"],
      ["state", "State"],
      ["cores", "Cores"],
      ["memory", "Memory", (v) => (v ? memory(Number(v)) : "")],
      ["uuid", "UUID"],
    ],
  ],
  [
    "modules",
    "Parts",
    [
      ["name", "Part"],
      ["sort", "Sort"],
      ["model", "Model"],
      ["serial", "Serial number"],
    ],
  ],
  [
    "memory_modules",
    "Memory modules",
    [
      ["slot", "Slot"],
      ["size", "Size", (v) => (v ? memory(Number(v)) : "")],
      ["speed", "MT/s"],
      ["manufacturer", "Manufacturer"],
      ["serial", "Serial number"],
    ],
  ],
  [
    "neighbours",
    "Neighbours",
    [
      ["port", "Port"],
      ["name", "Neighbour"],
      ["remote_port", "Its port"],
      ["chassis", "Chassis"],
    ],
  ],
  [
    "vlans",
    "VLANs",
    [
      ["vlan", "Number"],
      ["name", "Name"],
    ],
  ],
  [
    "forwarding",
    "Learnt behind its ports",
    [
      ["port", "Port"],
      ["mac", "Hardware address"],
      ["vlan", "VLAN"],
    ],
  ],
  [
    "arp",
    "Seen by it (ARP)",
    [
      ["address", "Address"],
      ["mac", "Hardware address"],
      ["interface", "Interface"],
    ],
  ],
  [
    "routes",
    "Routes",
    [
      ["destination", "To"],
      ["next_hop", "By way of"],
      ["interface", "Interface"],
    ],
  ],
  [
    "protections",
    "Protection",
    [
      ["name", "Product"],
      ["on", "On", yes],
      ["up_to_date", "Up to date", yes],
    ],
  ],
  [
    "updates",
    "System updates",
    [
      ["name", "Update"],
      ["description", "What"],
      ["installed", "Installed", when],
    ],
  ],
  [
    "installs",
    "Installed and last used",
    [
      ["name", "Product"],
      ["user", "For", (v) => String(v || "everyone")],
      ["installed", "Installed", day],
      ["used", "Last used, week of", day],
    ],
  ],
  [
    "licence_keys",
    "Licence keys found",
    [
      ["product", "Product"],
      ["key", "Key"],
      ["state", "State"],
    ],
  ],
  [
    "features",
    "System features",
    [
      ["name", "Feature"],
      ["label", "Called"],
    ],
  ],
  [
    "scheduled",
    "Scheduled tasks",
    [
      ["name", "Task"],
      ["runs", "Runs"],
      ["account", "As"],
      ["enabled", "On", yes],
    ],
  ],
  [
    "services",
    "Services",
    [
      ["name", "Service"],
      ["label", "Called"],
      ["start", "Starts"],
      ["running", "Runs", yes],
      ["account", "As"],
    ],
  ],
  [
    "memberships",
    "Local groups",
    [
      ["group", "Group"],
      ["member", "Member"],
    ],
  ],
  [
    "connections",
    "Connections",
    [
      ["process", "Process"],
      ["peer", "To"],
      ["port", "Port"],
    ],
  ],
  [
    "containers",
    "Containers",
    [
      ["name", "Container"],
      ["image", "Image"],
      ["running", "Runs", yes],
    ],
  ],
  [
    "printers",
    "Printers set up",
    [
      ["name", "Printer"],
      ["driver", "Driver"],
      ["port", "Port"],
    ],
  ],
];
const SHOWN = 12;

export function ListSections({ items }: { items: Items }) {
  return (
    <>
      {LISTS.map(([section, title, columns]) => {
        const rows = items[section] ?? [];
        return rows.length ? (
          <Section key={section} id={section} title={`${title}, ${rows.length}`} flush>
            <List rows={rows.slice(0, SHOWN)} columns={columns} />
            {rows.length > SHOWN && (
              <details className="px-3.5 py-1.5 text-[13px]">
                <summary className="dim">{rows.length - SHOWN} more</summary>
                <List rows={rows.slice(SHOWN)} columns={columns} />
              </details>
            )}
          </Section>
        ) : null;
      })}
    </>
  );
}

function List({ rows, columns }: { rows: Item[]; columns: Column[] }) {
  return (
    <table className="grid-table">
      <thead>
        <tr>
          {columns.map(([key, label]) => (
            <th key={key}>{label}</th>
          ))}
        </tr>
      </thead>
      <tbody>
        {rows.map((row) => (
          <tr key={columns.map(([key]) => row[key]).join("|")}>
            {columns.map(([key, , show]) => (
              <td key={key} className={["mac", "serial", "uuid", "key"].includes(key) ? "mono" : ""}>
                {key === columns[0]?.[0] && row.link ? (
                  <a
                    className="link-quiet font-semibold"
                    href={String(row.link)}
                    rel="noreferrer"
                    target="_blank"
                  >
                    {String(row[key] ?? "")}
                  </a>
                ) : show ? (
                  show(row[key] ?? null)
                ) : (
                  String(row[key] ?? "")
                )}
              </td>
            ))}
          </tr>
        ))}
      </tbody>
    </table>
  );
}

const FACTS: [field: string, label: string, show?: (value: unknown) => string][] = [
  ["pages", "Pages printed", (v) => Number(v).toLocaleString("en-GB")],
  ["battery", "Battery", (v) => `${v} %`],
  ["battery_state", "Battery is"],
  ["runtime", "Would last", (v) => `${v} minutes`],
  ["booted", "Last start", (v) => when(Number(v))],
  ["checked_in", "Last check-in", (v) => when(Number(v))],
  ["signed_in", "Last sign-in to the directory", (v) => when(Number(v))],
  ["disabled", "Disabled in the directory", (v) => (v ? "yes" : "no")],
  ["encrypted", "Encrypted", (v) => (v ? "yes" : "no")],
  ["passcode", "Passcode set", (v) => (v ? "yes" : "no")],
  ["supervised", "Supervised", (v) => (v ? "yes" : "no")],
  ["site", "Site of its management"],
  ["managed_by", "Managed by"],
  ["unit", "Organisational unit"],
];

/** What systems that manage devices say, and what devices that meter themselves tell. */
export function ManagementSection({ claims }: { claims: Claims }) {
  return <FactsSection id="management" title="Condition and management" facts={FACTS} claims={claims} />;
}

/** How it was bought, and until when its maker answers for it. */
export function AcquisitionSection({ claims, asset }: { claims: Claims; asset: number }) {
  const may = useMay("plan");
  const { at } = useDial();
  const [typing, setTyping] = useState(false);
  const currency = String(claims.currency?.find((c) => c.believed)?.value ?? "EUR");
  const onDay = (v: unknown) => dayText(iso(Number(v)));
  const facts: typeof FACTS = [
    ["warranty_end", "Warranty until", onDay],
    ["bought_at", "Bought", onDay],
    ["price", "Price", (v) => minorAmount(Number(v), currency)],
    ["supplier", "Supplier"],
    ["order", "Order"],
    ["cost_centre", "Cost centre"],
  ];
  const change = (
    <button type="button" className="link-quiet text-[12.5px] font-semibold" onClick={() => setTyping(true)}>
      Type it
    </button>
  );
  return (
    <>
      <FactsSection
        id="acquisition"
        title="Acquisition"
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
  const known = props.facts.filter(([field]) => claims[field]?.length);
  if (known.length === 0 && !props.foot) return null;
  return (
    <Section id={props.id} title={props.title}>
      <dl className="facts">
        {known.map(([field, label, show]) => {
          const value = claims[field]?.find((c) => c.believed)?.value ?? null;
          const shown = value === null ? null : show ? show(value) : capital(String(value));
          return <Fact key={field} label={label} field={field} value={shown} claims={claims} show={show} />;
        })}
      </dl>
      {props.foot}
    </Section>
  );
}
