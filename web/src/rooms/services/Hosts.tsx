import { useQuery } from "@tanstack/react-query";
import { asks } from "../../api/asking";
import type { Schemas } from "../../api/client";
import { DeviceLink } from "../../parts/DeviceLink";
import { bytes, memory, plural, shortDay } from "../../parts/format";
import { Empty, Unanswered } from "../../parts/Problem";
import { Table } from "../../parts/table/Table";
import { t, word } from "../../words";
import { Fill } from "./Fill";

interface Props {
  filter: string;
  at: string | undefined;
}

type Host = Schemas["HostOut"];

/** Virtual hosts side by side, each with what it has given its guests, and every guest with what is kept of it. */
export function Hosts({ filter, at }: Props) {
  const asked = useQuery({
    ...asks("/api/services/hosts", { params: { query: { filter, as_of: at } } }),
    placeholderData: (before) => before,
  });
  if (asked.error || !asked.data)
    return <Unanswered asked={asked} what={t("Looking at the virtual hosts …")} />;
  if (asked.data.length === 0)
    return (
      <Empty title={t("No virtual host is among them.")}>
        {t("A virtual host tells of its guests when it is read with an account that may ask it.")}
      </Empty>
    );
  return (
    <div className="grid items-start gap-3 lg:grid-cols-2">
      {asked.data.map((host) => (
        <OneHost key={host.asset} host={host} at={at} />
      ))}
    </div>
  );
}

function OneHost({ host, at }: { host: Host; at: string | undefined }) {
  return (
    <section className="sheet" aria-label={host.name}>
      <div className="px-3.5 pt-3 pb-2">
        <DeviceLink asset={host.asset} at={at} className="link-quiet mono text-[15px] font-semibold">
          {host.name}
        </DeviceLink>{" "}
        <span className="dim text-[13px]">{host.place}</span>
        {host.cluster && (
          <p className="dim text-[13px]">
            {host.beside.length > 0
              ? t("of the cluster {{cluster}} with {{nodes}}", {
                  cluster: host.cluster,
                  nodes: host.beside.join(", "),
                })
              : t("of the cluster {{cluster}}, alone online", { cluster: host.cluster })}
          </p>
        )}
        <div className="grid gap-x-6 gap-y-1 pt-2 text-[13px] sm:grid-cols-2">
          <Share label={t("Cores given")} given={host.given_cores} has={host.cores} says={String} />
          <Share label={t("Memory given")} given={host.given_memory} has={host.memory} says={memory} />
          {host.stores.map((store) => (
            <Share
              key={store.name}
              label={store.name}
              given={store.full ?? 0}
              has={store.full === null ? null : 100}
              says={(n) => `${n} %`}
              of={store.size === null ? "" : bytes(store.size)}
            />
          ))}
        </div>
      </div>
      <div className="overflow-x-auto">
        <Table
          list={t("guests of {{asset}}", { asset: host.asset })}
          label={t("Guests of {{name}}", { name: host.name })}
          rows={host.guests}
          rowKey={(g) => g.name}
          columns={[
            {
              key: "name",
              label: t("Guest"),
              of: (g) => g.name,
              className: "whitespace-nowrap",
              cell: (g) =>
                g.asset === null ? (
                  <span className="mono">{g.name}</span>
                ) : (
                  <DeviceLink asset={g.asset} at={at} className="link-quiet mono">
                    {g.name}
                  </DeviceLink>
                ),
            },
            {
              key: "state",
              label: t("State"),
              of: (g) => (g.kept ? t("{{state}}, may move", { state: word(g.state) }) : word(g.state)),
            },
            { key: "cores", label: t("Cores"), of: (g) => g.cores, num: true },
            {
              key: "memory",
              label: t("Memory"),
              of: (g) => g.memory,
              num: true,
              cell: (g) => (g.memory === null ? "–" : memory(g.memory)),
            },
            { key: "networks", label: t("At"), of: (g) => g.networks.join(", ") },
            {
              key: "snapshots",
              label: t("Snapshots"),
              of: (g) => g.snapshots,
              cell: (g) =>
                g.snapshots === 0
                  ? "–"
                  : `${plural(g.snapshots, "snapshot")}${g.oldest_at ? t(", the oldest of {{oldest_at}}", { oldest_at: shortDay(g.oldest_at) }) : ""}`,
            },
          ]}
        />
      </div>
    </section>
  );
}

interface ShareProps {
  label: string;
  given: number;
  has: number | null;
  says: (n: number) => string;
  of?: string;
}

function Share({ label, given, has, says, of }: ShareProps) {
  const share = has ? Math.round((100 * given) / has) : 0;
  return (
    <div>
      <span className="dim">{label}</span>{" "}
      <span className="tabular-nums">
        {says(given)}
        {of === undefined
          ? t(" of {{which}}", { which: has === null ? t("what nobody tells") : says(has) })
          : of && t(" of {{of}}", { of })}
      </span>
      <Fill percent={share} grade={share > 90 ? "bad" : ""} className="mt-0.5 block" />
    </div>
  );
}
