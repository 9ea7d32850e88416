import { useQuery } from "@tanstack/react-query";
import { Link } from "@tanstack/react-router";
import { useState } from "react";
import { asks } from "../../api/asking";
import { client, ok, type Schemas } from "../../api/client";
import { useDial } from "../../parts/dial";
import { count, plural } from "../../parts/format";
import { useMay } from "../../parts/me";
import { Empty, Unanswered } from "../../parts/Problem";
import { useDone } from "../../parts/Sheet";
import { type Sift, Sifts } from "../../parts/Sifts";
import { Table } from "../../parts/table/Table";
import { t } from "../../words";
import { NameOutside } from "./NameOutside";

type Row = Schemas["OutsideNameOut"];

const SIFTS: Sift<Row>[] = [
  ["proposed", t("With a proposal"), (r) => r.state === "proposed"],
  ["unknown", t("No document tells of it"), (r) => r.state === "unknown"],
  ["said", t("Said by a person"), (r) => r.state === "said" || r.state === "none"],
  ["known", t("Known by its own name"), (r) => r.state === "known"],
];

/** What products here are called outside: proposals to judge, what people said, and what agrees by itself. */
export function OutsideNames() {
  const [sift, setSift] = useState<string | null>(null);
  const [naming, setNaming] = useState<Row | null>(null);
  const asked = useQuery(asks("/api/exposure/names"));
  const may = useMay("decide") && !useDial().at;
  const done = useDone();
  if (asked.error || !asked.data) return <Unanswered asked={asked} what={t("Looking for names outside …")} />;
  const rows = asked.data;
  const first = SIFTS.find(([, , fits]) => rows.some(fits))?.[0];
  const chosen = SIFTS.find(([key]) => key === (sift ?? first)) ?? SIFTS[0];
  const shown = rows.filter(chosen?.[2] ?? (() => true));
  const say = (row: Row, name: string, words: string) =>
    void done(
      () =>
        ok(client.POST("/api/exposure/names", { body: { product: row.product, maker: row.maker, name } })),
      words,
    );
  return (
    <>
      <p className="dim max-w-3xl pb-2.5 text-[13.5px]">
        {t(
          "Advisories reach a product only by the name the outside world has for it. Packages of a distribution and hardware go by their own names and stand here only where a document may mean them under another one. What is said here holds for the past as well.",
        )}
      </p>
      <Sifts label={t("Which products")} sifts={SIFTS} rows={rows} chosen={chosen?.[0]} set={setSift} />
      {shown.length === 0 ? (
        <Empty title={t("No product is of this sort.")}>{t("The other buttons above may have some.")}</Empty>
      ) : (
        <div className="sheet overflow-x-auto">
          <Table
            list="names-outside"
            label={t("Names outside")}
            rows={shown}
            rowKey={(r) => `${r.product} ${r.maker}`}
            columns={[
              {
                key: "product",
                label: t("Product here"),
                of: (r) => r.product,
                cell: (r) => (
                  <>
                    <b className="font-semibold">{r.product}</b>
                    {r.maker && <span className="dim"> · {r.maker}</span>}
                  </>
                ),
              },
              {
                key: "devices",
                label: t("Devices"),
                of: (r) => r.devices,
                cell: (r) => (
                  <Link to="/estate" search={{ q: r.filter }} className="link-quiet">
                    {count(r.devices)}
                  </Link>
                ),
                num: true,
              },
              {
                key: "outside",
                label: t("Called outside"),
                of: (r) =>
                  [...r.known, ...r.said, ...r.proposals]
                    .map((n) => (typeof n === "string" ? n : n.name))
                    .join(", "),
                cell: (r) => <Called row={r} say={may ? say : null} />,
              },
              {
                key: "do",
                label: "",
                cell: (r) =>
                  may && (
                    <span className="flex justify-end gap-3 whitespace-nowrap">
                      {r.said.map((one) => (
                        <button
                          key={one.id}
                          type="button"
                          className="link-quiet font-semibold"
                          onClick={() =>
                            void done(
                              () =>
                                ok(
                                  client.DELETE("/api/exposure/names/{number}", {
                                    params: { path: { number: one.id } },
                                  }),
                                ),
                              t("It goes by its own name again."),
                            )
                          }
                        >
                          {t("Take back")}
                          {r.said.length > 1 && ` “${one.name}”`}
                        </button>
                      ))}
                      <button type="button" className="link-quiet font-semibold" onClick={() => setNaming(r)}>
                        {t("Name it")}
                      </button>
                      {r.state !== "none" && (
                        <button
                          type="button"
                          className="link-quiet font-semibold"
                          onClick={() => say(r, "", t("Nobody outside knows it, you said."))}
                        >
                          {t("Nobody knows it")}
                        </button>
                      )}
                    </span>
                  ),
              },
            ]}
          />
        </div>
      )}
      {naming && <NameOutside product={naming.product} maker={naming.maker} close={() => setNaming(null)} />}
    </>
  );
}

function Called({ row, say }: { row: Row; say: ((row: Row, name: string, words: string) => void) | null }) {
  if (row.state === "unknown") return <span className="dim">{t("no document tells of it")}</span>;
  if (row.state === "known") return <span>{row.known.join(", ")}</span>;
  if (row.said.length > 0)
    return (
      <ul>
        {row.said.map((one) => (
          <li key={one.id}>
            {one.key ? one.name : t("nobody knows it")}{" "}
            <span className="dim">{t("said {{by}}", { by: one.by })}</span>
          </li>
        ))}
      </ul>
    );
  return (
    <ul className="space-y-1">
      {row.proposals.map((p) => (
        <li key={p.key} className="flex flex-wrap items-baseline gap-x-2">
          <b className="font-semibold">{p.name}</b>
          <span className="dim">
            {t("{{sure}} % alike, {{advisories}}. {{because}}", {
              sure: Math.round(p.sure * 100),
              advisories: plural(p.advisories, "advisory", "advisories"),
              because: p.because,
            })}
          </span>
          {say && (
            <button
              type="button"
              className="btn btn-xs"
              onClick={() =>
                say(
                  row,
                  p.key,
                  t("{{product}} is known as {{name}}.", { product: row.product, name: p.name }),
                )
              }
            >
              {t("It is this one")}
            </button>
          )}
        </li>
      ))}
    </ul>
  );
}
