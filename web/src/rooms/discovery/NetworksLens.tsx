import { useQuery } from "@tanstack/react-query";
import { Link } from "@tanstack/react-router";
import { asks } from "../../api/asking";
import type { Schemas } from "../../api/client";
import { both } from "../../parts/ask/written";
import { ago, count, plural } from "../../parts/format";
import { Empty, Unanswered } from "../../parts/Problem";
import { Table } from "../../parts/table/Table";
import { t } from "../../words";

type Share = Schemas["NetworkShare"];

const used = (n: Share) => Math.round((1000 * n.devices) / n.addresses) / 10;
const kinds = (n: Share) => n.kinds.map((k) => `${k.kind || t("no kind")} ${count(k.count)}`).join(", ");

/** The networks of a selection: how much of it each holds, and what lies in none. */
export function NetworksLens({ filter, at }: { filter: string; at: string | undefined }) {
  const asked = useQuery(asks("/api/networks/selected", { params: { query: { filter, as_of: at ?? "" } } }));
  if (!asked.data || asked.error) return <Unanswered asked={asked} what={t("Laying the networks out …")} />;
  const { networks, outside, outside_filter, without, total } = asked.data;
  const devices = (condition: string, words: string) => (
    <Link to="/estate" search={{ at, q: both(filter, condition) }} className="link-quiet font-semibold">
      {words}
    </Link>
  );
  return (
    <>
      <p className="dim py-2 text-[13px]" aria-live="polite">
        <b className="text-base-content">{plural(networks.length, "network")}</b>{" "}
        {t("{{which}} {{total}} of {{devices}}.", {
          which: networks.length === 1 ? t("holds") : t("hold"),
          total: count(total - outside - without),
          devices: plural(total, "device"),
        })}
        {outside > 0 && (
          <>
            {" "}
            {devices(outside_filter, plural(outside, "device"))} {t("with an address in none of them.")}
          </>
        )}
        {without > 0 && (
          <>
            {" "}
            {devices("address = none", plural(without, "device"))} {t("without a known address.")}
          </>
        )}
      </p>
      {networks.length === 0 ? (
        <Empty title={t("None of these devices lies in a noted network.")}>
          {t(
            "Networks are noted under Discovery; widen the question, or note the network these addresses belong to.",
          )}
        </Empty>
      ) : (
        <div className="sheet overflow-x-auto">
          <Table
            list="networks-lens"
            label={t("Networks of the selection")}
            rows={networks}
            rowKey={(n) => n.id}
            columns={[
              { key: "range", label: t("Network"), of: (n) => n.range, mono: true },
              { key: "name", label: t("Name"), of: (n) => n.name },
              { key: "place", label: t("Place"), of: (n) => n.place },
              {
                key: "devices",
                label: t("Devices"),
                of: (n) => n.devices,
                cell: (n) => devices(n.filter, count(n.devices)),
                num: true,
              },
              { key: "addresses", label: t("Addresses"), of: (n) => n.addresses, num: true },
              {
                key: "used",
                label: t("In use %"),
                meaning: t("Its addresses that devices of this selection have"),
                of: used,
                num: true,
              },
              { key: "kinds", label: t("Mostly"), of: kinds },
              {
                key: "last_seen",
                label: t("Last seen"),
                of: (n) => n.last_seen,
                cell: (n) => (n.last_seen ? ago(n.last_seen) : ""),
              },
            ]}
          />
        </div>
      )}
    </>
  );
}
