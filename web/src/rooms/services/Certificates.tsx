import { useQuery } from "@tanstack/react-query";
import { Link } from "@tanstack/react-router";
import { asks } from "../../api/asking";
import type { Schemas } from "../../api/client";
import { quoted } from "../../parts/ask/written";
import { DeviceLink } from "../../parts/DeviceLink";
import { plural, shortDay } from "../../parts/format";
import { Empty, Unanswered } from "../../parts/Problem";
import { Table } from "../../parts/table/Table";
import { t } from "../../words";
import { Opens } from "./Opens";

interface Props {
  filter: string;
  at: string | undefined;
}

type Certificate = Schemas["CertificateOut"];

/** Certificates as they were met, the one that ends first on top: where each is, and whom its end would turn away. */
export function Certificates({ filter, at }: Props) {
  const asked = useQuery({
    ...asks("/api/services/certificates", { params: { query: { filter, as_of: at } } }),
    placeholderData: (before) => before,
  });
  if (asked.error || !asked.data)
    return <Unanswered asked={asked} what={t("Looking at the certificates …")} />;
  if (asked.data.length === 0)
    return (
      <Empty title={t("None of these presents a certificate.")}>
        {t("Certificates are met at ports that speak TLS, whoever signed them.")}
      </Empty>
    );
  return (
    <div className="sheet overflow-x-auto">
      <Table
        list="certificates"
        label={t("Certificates")}
        rows={asked.data}
        rowKey={(c) => c.fingerprint}
        columns={[
          {
            key: "subject",
            label: t("Names"),
            of: (c) => c.subject,
            className: "min-w-56 whitespace-normal",
            cell: (c) => <Names of={c} />,
          },
          {
            key: "days",
            label: t("Ends"),
            of: (c) => c.days,
            className: "whitespace-nowrap",
            cell: (c) => <Ends of={c} />,
          },
          {
            key: "places",
            label: t("Presented by"),
            of: (c) => c.places.map((p) => `${p.name}:${p.port}`).join(", "),
            className: "min-w-52 whitespace-normal",
            cell: (c) =>
              c.places.map((p) => (
                <DeviceLink
                  key={`${p.asset} ${p.port}`}
                  asset={p.asset}
                  at={at}
                  className="link-quiet mono mr-2"
                >
                  {p.name}:{p.port}
                </DeviceLink>
              )),
          },
          {
            key: "issuer",
            label: t("Signed by"),
            of: (c) => c.issuer,
            className: "whitespace-normal",
            cell: (c) => <Signers of={c} />,
          },
          { key: "key", label: t("Key"), of: (c) => c.key },
          {
            key: "callers",
            label: t("Call there"),
            of: (c) => c.callers.devices,
            num: true,
            cell: (c) => <Opens of={c.callers} at={at} />,
          },
          {
            key: "services",
            label: t("Services"),
            of: (c) => c.services.join(", "),
            cell: (c) =>
              c.services.length === 0 ? (
                "–"
              ) : (
                <Link
                  to="/services"
                  search={{ at, tab: "stops", q: `certificates[fingerprint = ${quoted(c.fingerprint)}]` }}
                  className="link-quiet"
                >
                  {c.services.join(", ")}
                </Link>
              ),
          },
        ]}
      />
    </div>
  );
}

function Names({ of: c }: { of: Certificate }) {
  const more = c.names.filter((n) => n !== c.subject);
  return (
    <>
      <b>{c.subject || t("no name")}</b>
      {more.length > 0 && (
        <span className="dim"> {t("and {{more}}", { more: more.slice(0, 3).join(", ") })}</span>
      )}
      {more.length > 3 && <span className="dim"> {t("and {{more}} more", { more: more.length - 3 })}</span>}
    </>
  );
}

function Ends({ of: c }: { of: Certificate }) {
  if (c.days === null || c.ends === null) return <>{t("not told")}</>;
  const day = shortDay(c.ends);
  const words = c.days < 0 ? t("over since {{day}}", { day }) : `in ${plural(c.days, "day")}, ${day}`;
  return <span className={c.days < 0 ? "tag bad" : c.days < 30 ? "tag warn" : ""}>{words}</span>;
}

function Signers({ of: c }: { of: Certificate }) {
  if (c.self_signed) return <span className="dim">{t("itself")}</span>;
  const further = c.chain.filter((name) => name !== c.issuer);
  return (
    <>
      {c.issuer || t("not told")}
      {further.length > 0 && (
        <span className="dim">{t(", and {{further}} above", { further: further.join(", ") })}</span>
      )}
    </>
  );
}
