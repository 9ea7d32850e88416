import { useQuery } from "@tanstack/react-query";
import { Link } from "@tanstack/react-router";
import { useState } from "react";
import { asks } from "../../api/asking";
import type { Schemas } from "../../api/client";
import { both, quoted } from "../../parts/ask/written";
import { count, plural, shortDay } from "../../parts/format";
import { GRADES, Grade, InUse } from "../../parts/Graded";
import { Empty, Unanswered } from "../../parts/Problem";
import { type Sift, Sifts } from "../../parts/Sifts";
import { Table } from "../../parts/table/Table";
import { t, word } from "../../words";

import { type Asked, finding } from "./asked";

type Advisory = Schemas["AdvisoryRow"];

const SIFTS: Sift<Advisory>[] = [
  ["all", t("All"), () => true],
  ["used", t("In use"), (a) => a.used !== null],
  ["late", t("Late"), (a) => a.late > 0],
  ...GRADES.map((g): Sift<Advisory> => [g, g.charAt(0).toUpperCase() + g.slice(1), (a) => a.grade === g]),
];

/** The advisories that touch a selection, the gravest first. */
export function Advisories({ filter, at, known }: Asked) {
  const [find, setFind] = useState("");
  const [sift, setSift] = useState("all");
  const asked = useQuery({
    ...asks("/api/exposure/advisories", { params: { query: { filter, as_of: at, known } } }),
    placeholderData: (before) => before,
  });
  if (asked.error || !asked.data)
    return <Unanswered asked={asked} what={t("Holding advisories against what is here …")} />;
  const wanted = find.trim().toLowerCase();
  const fits = SIFTS.find(([key]) => key === sift)?.[2] ?? (() => true);
  const found = asked.data.filter(
    (a) =>
      fits(a) && (!wanted || `${a.name} ${a.aliases.join(" ")} ${a.title}`.toLowerCase().includes(wanted)),
  );
  const devices = (a: Advisory) =>
    finding(`id = ${quoted(a.name)} and status = affected and accepted = no`, known);
  return (
    <>
      <Sifts label={t("Which advisories")} sifts={SIFTS} rows={asked.data} chosen={sift} set={setSift}>
        <input
          type="search"
          className="input input-sm w-60"
          placeholder={t("Find an advisory or a word of it")}
          aria-label={t("Find an advisory")}
          value={find}
          onChange={(e) => setFind(e.target.value)}
        />
      </Sifts>
      {found.length === 0 ? (
        <Empty
          title={asked.data.length === 0 ? t("No advisory touches these devices.") : t("No advisory fits.")}
        >
          {asked.data.length === 0
            ? t("Either nothing is open here, or no feed has told of it yet.")
            : t("Take a narrowing off to see more.")}
        </Empty>
      ) : (
        <div className="sheet overflow-x-auto">
          <Table
            list="advisories"
            label={t("Advisories")}
            rows={found}
            rowKey={(a) => a.name}
            columns={[
              {
                key: "advisory",
                label: t("Advisory"),
                of: (a) => a.name,
                cell: (a) => (
                  <Link
                    to="/exposure/advisories/$advisory"
                    params={{ advisory: a.name }}
                    search={{ at, known, q: filter || undefined }}
                    className="link-quiet mono font-semibold whitespace-nowrap"
                  >
                    {a.name}
                  </Link>
                ),
              },
              { key: "title", label: t("What it is"), of: (a) => a.title, className: "max-w-md" },
              {
                key: "also",
                label: t("Also called"),
                of: (a) => a.aliases.join(", "),
                mono: true,
                spare: true,
              },
              {
                key: "grade",
                label: t("Asks for"),
                of: (a) => word(a.grade),
                cell: (a) => <Grade grade={a.grade} />,
                className: "whitespace-nowrap",
              },
              {
                key: "devices",
                label: t("Devices"),
                of: (a) => a.devices,
                cell: (a) => (
                  <Link to="/estate" search={{ at, q: both(filter, devices(a)) }} className="link-quiet">
                    {count(a.devices)}
                  </Link>
                ),
                num: true,
              },
              {
                key: "unsure",
                label: t("Unsure"),
                of: (a) => a.unsure,
                cell: (a) => (a.unsure ? count(a.unsure) : ""),
                num: true,
                meaning: t("devices of which it is under investigation whether they are open to it"),
              },
              {
                key: "used",
                label: t("Use"),
                of: (a) => a.used !== null,
                cell: (a) => <InUse since={a.used} />,
              },
              {
                key: "chance",
                label: t("Chance"),
                of: (a) => a.chance,
                cell: (a) => (a.chance === null ? "" : a.chance.toFixed(2)),
                num: true,
                meaning: t("of being used within 30 days (EPSS)"),
              },
              {
                key: "score",
                label: t("Score"),
                of: (a) => a.score,
                cell: (a) =>
                  a.score === null ? <span className="faint">{t("none")}</span> : a.score.toFixed(1),
                num: true,
                meaning: t("the base score as published (CVSS)"),
              },
              {
                key: "since",
                label: t("Open since"),
                of: (a) => a.since.slice(0, 10),
                cell: (a) => shortDay(a.since),
                className: "whitespace-nowrap",
              },
              {
                key: "late",
                label: t("Late"),
                of: (a) => a.late,
                cell: (a) => (a.late ? plural(a.late, "device") : ""),
                className: "whitespace-nowrap",
              },
            ]}
          />
        </div>
      )}
    </>
  );
}
