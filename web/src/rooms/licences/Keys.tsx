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
import { t } from "../../words";

/** Keys entered and keys found on devices, those with something wrong first. */
export function Keys({ at }: { at: string | undefined }) {
  const may = useMay("plan");
  const done = useDone("licences");
  const [all, setAll] = useState(false);
  const [shown, setShown] = useState<Record<number, string>>({});
  const asked = useQuery(asks("/api/licences/keys", { params: { query: { as_of: at } } }));
  if (asked.error || !asked.data) return <Unanswered asked={asked} what={t("Reading keys …")} />;
  const known = asked.data.keys.filter((k) => k.id || k.licence || k.devices.length > 1);
  const strange = asked.data.keys.length - known.length;
  const keys = (all ? asked.data.keys : known).sort((a, b) => Number(!a.problem) - Number(!b.problem));
  if (!asked.data.keys.length)
    return (
      <Empty title={t("No key is known.")}>
        {t("Add keys on a licence's page; sweeps add those that devices show.")}
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
          {t("{{keys}} found on devices, of products no licence covers and nobody entered.", {
            keys: plural(strange, "key"),
          })}
          <button
            type="button"
            className="link-quiet font-semibold"
            aria-pressed={all}
            onClick={() => setAll(!all)}
          >
            {all ? t("Leave them out") : t("Show them")}
          </button>
        </p>
      )}
      <Table
        list="keys"
        label={t("Keys")}
        rows={keys}
        rowKey={(k) => k.id ?? `${k.product}${k.tail}${k.devices[0]?.asset}`}
        columns={[
          {
            key: "key",
            label: t("Key"),
            of: (k) => `… ${k.tail}`,
            cell: (k) => (k.id && shown[k.id]) || `… ${k.tail}`,
            mono: true,
          },
          {
            key: "licence",
            label: t("Licence"),
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
                {!k.id && <span className="tag ml-2">{t("found, not entered")}</span>}
              </>
            ),
          },
          {
            key: "on",
            label: t("On"),
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
                {k.devices.length > 3 && t(" and {{devices}} more", { devices: k.devices.length - 3 })}
                {k.devices.length === 0 && t("no device")}
              </>
            ),
            className: "dim",
          },
          {
            key: "activations",
            label: t("Activations"),
            of: (k) => k.devices.length,
            cell: (k) =>
              k.id
                ? t("{{devices}} of {{activations}}", {
                    devices: k.devices.length,
                    activations: k.activations ?? t("any number"),
                  })
                : plural(k.devices.length, "device"),
            num: true,
            mono: true,
          },
          {
            key: "what_is_wrong",
            label: t("What is wrong"),
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
                    aria-label={t("Show the key that ends in {{tail}}", { tail: k.tail })}
                    onClick={() => show(k.id as number)}
                  >
                    {t("Show")}
                  </button>
                )}
                {may && k.id && !at && (
                  <button
                    type="button"
                    className="link-quiet ml-3 font-semibold"
                    aria-label={t("Withdraw the key that ends in {{tail}}", { tail: k.tail })}
                    onClick={() =>
                      void done(
                        () =>
                          ok(
                            client.DELETE("/api/licences/keys/{number}", {
                              params: { path: { number: k.id as number } },
                            }),
                          ),
                        t("The key is withdrawn."),
                      )
                    }
                  >
                    {t("Withdraw")}
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
