import { useQuery } from "@tanstack/react-query";
import { Link } from "@tanstack/react-router";
import { useState } from "react";
import { asks } from "../../api/asking";
import { client, ok } from "../../api/client";
import { DeviceLink } from "../../parts/DeviceLink";
import { plural } from "../../parts/format";
import { useMay } from "../../parts/me";
import { Empty, Unanswered } from "../../parts/Problem";
import { useDone } from "../../parts/Sheet";
import { Table } from "../../parts/table/Table";

/** Keys entered and keys found on devices, those with something wrong first. */
export function Keys({ at }: { at: string | undefined }) {
  const may = useMay("plan");
  const done = useDone("licences");
  const [all, setAll] = useState(false);
  const [shown, setShown] = useState<Record<number, string>>({});
  const asked = useQuery(asks("/api/licences/keys", { params: { query: { as_of: at } } }));
  if (asked.error || !asked.data) return <Unanswered asked={asked} what="Reading keys …" />;
  const known = asked.data.keys.filter((k) => k.id || k.licence || k.devices.length > 1);
  const strange = asked.data.keys.length - known.length;
  const keys = (all ? asked.data.keys : known).sort((a, b) => Number(!a.problem) - Number(!b.problem));
  if (!asked.data.keys.length)
    return (
      <Empty title="No key is known.">
        Add keys on a licence's page; sweeps add those that devices show.
      </Empty>
    );
  const show = (id: number) =>
    void done(async () => {
      const told = await ok(
        client.POST("/api/licences/keys/{number}/show", { params: { path: { number: id } } }),
      );
      setShown({ ...shown, [id]: told.key });
    });
  return (
    <div className="overflow-x-auto bg-base-100">
      {strange > 0 && (
        <p className="dim flex flex-wrap items-center gap-3 border-b border-base-300 px-3 py-2 text-[13px]">
          {plural(strange, "key")} found on devices, of products no licence covers and nobody entered.
          <button
            type="button"
            className="link-quiet font-semibold"
            aria-pressed={all}
            onClick={() => setAll(!all)}
          >
            {all ? "Leave them out" : "Show them"}
          </button>
        </p>
      )}
      <Table
        list="keys"
        label="Keys"
        rows={keys}
        rowKey={(k) => k.id ?? `${k.product}${k.tail}${k.devices[0]?.asset}`}
        columns={[
          {
            key: "key",
            label: "Key",
            of: (k) => `… ${k.tail}`,
            cell: (k) => (k.id && shown[k.id]) || `… ${k.tail}`,
            mono: true,
          },
          {
            key: "licence",
            label: "Licence",
            of: (k) => (k.licence ? k.licence_name : k.product),
            cell: (k) => (
              <>
                {k.licence ? (
                  <Link
                    to="/licences/$licence"
                    params={{ licence: String(k.licence) }}
                    search={{ at }}
                    className="link-quiet font-semibold"
                  >
                    {k.licence_name}
                  </Link>
                ) : (
                  <span className="dim">{k.product}</span>
                )}
                {!k.id && <span className="tag ml-2">found, not entered</span>}
              </>
            ),
          },
          {
            key: "on",
            label: "On",
            of: (k) => k.devices.map((d) => d.name).join(", "),
            cell: (k) => (
              <>
                {k.devices.slice(0, 3).map((d, n) => (
                  <span key={d.asset}>
                    {n > 0 && ", "}
                    <DeviceLink asset={d.asset} at={at}>
                      {d.name}
                    </DeviceLink>
                  </span>
                ))}
                {k.devices.length > 3 && ` and ${k.devices.length - 3} more`}
                {k.devices.length === 0 && "no device"}
              </>
            ),
            className: "dim",
          },
          {
            key: "activations",
            label: "Activations",
            of: (k) => k.devices.length,
            cell: (k) =>
              k.id
                ? `${k.devices.length} of ${k.activations ?? "any number"}`
                : plural(k.devices.length, "device"),
            num: true,
            mono: true,
          },
          {
            key: "what_is_wrong",
            label: "What is wrong",
            of: (k) => k.problem,
            cell: (k) =>
              k.problem && (
                <span className={`tag ${k.problem === "nobody entered it" ? "" : "bad"}`}>{k.problem}</span>
              ),
          },
          {
            key: "do",
            label: "",
            cell: (k) => (
              <>
                {may && k.id && !shown[k.id] && (
                  <button
                    type="button"
                    className="link-quiet font-semibold"
                    aria-label={`Show the key that ends in ${k.tail}`}
                    onClick={() => show(k.id as number)}
                  >
                    Show
                  </button>
                )}
                {may && k.id && !at && (
                  <button
                    type="button"
                    className="link-quiet ml-3 font-semibold"
                    aria-label={`Withdraw the key that ends in ${k.tail}`}
                    onClick={() =>
                      void done(
                        () =>
                          ok(
                            client.DELETE("/api/licences/keys/{number}", {
                              params: { path: { number: k.id as number } },
                            }),
                          ),
                        "The key is withdrawn.",
                      )
                    }
                  >
                    Withdraw
                  </button>
                )}
              </>
            ),
            num: true,
            className: "whitespace-nowrap",
          },
        ]}
      />
    </div>
  );
}
