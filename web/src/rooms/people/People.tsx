import { useQuery } from "@tanstack/react-query";
import { Link, useNavigate, useSearch } from "@tanstack/react-router";
import { useDeferredValue, useState } from "react";
import { asks } from "../../api/asking";
import { useDial } from "../../parts/dial";
import { EstateNav } from "../../parts/EstateNav";
import { count, plural, shortDay } from "../../parts/format";
import { Empty, Unanswered } from "../../parts/Problem";
import { Sheet } from "../../parts/Sheet";
import { Table } from "../../parts/table/Table";
import type { Search } from "../../search";
import { t } from "../../words";

const VIEWS = [
  [undefined, t("Everybody")],
  ["left", t("Left, and still hold devices")],
  ["unknown", t("Hold devices, known to no system")],
] as const;

/** The people of the company and their devices; leavers who still hold some before all others. */
export function People() {
  const { tab } = useSearch({ strict: false }) as Search;
  const { at } = useDial();
  const navigate = useNavigate();
  const [wanted, setWanted] = useState("");
  const looked = useDeferredValue(wanted.trim().toLowerCase());
  const asked = useQuery(asks("/api/persons", { params: { query: { as_of: at } } }));
  if (asked.error || !asked.data) return <Unanswered asked={asked} what={t("Reading who has what …")} />;
  const inView = (view: string | undefined) =>
    asked.data.filter((p) =>
      view === "left" ? p.left_at && p.holds > 0 : view === "unknown" ? p.sources.length === 0 : true,
    );
  const rows = inView(tab).filter(
    (p) =>
      !looked ||
      [p.name, p.department, p.title, p.email, p.account].some((text) => text.toLowerCase().includes(looked)),
  );
  return (
    <div className="mx-auto w-full max-w-[1280px] px-4 pb-10">
      <EstateNav />
      <div className="flex flex-wrap items-center gap-x-3 gap-y-2 pt-1 pb-2">
        <h1>{t("People")}</h1>
        {VIEWS.map(([view, label]) => (
          <button
            key={label}
            type="button"
            aria-pressed={tab === view}
            className={`btn btn-sm ${tab === view ? "btn-primary" : ""}`}
            onClick={() =>
              void navigate({ to: "/people", search: ((s: Search) => ({ at: s.at, tab: view })) as never })
            }
          >
            {label} {count(inView(view).length)}
          </button>
        ))}
        <span className="flex-1" />
        <input
          className="input input-sm w-60"
          aria-label={t("Find a person")}
          placeholder={t("name, department, account")}
          value={wanted}
          onChange={(e) => setWanted(e.target.value)}
        />
      </div>
      {rows.length === 0 ? (
        <Empty title={t("Nobody here.")}>
          {t("People come from a directory, a personnel system (SCIM) or a file, under Discovery.")}
        </Empty>
      ) : (
        <Sheet id="people" title={plural(rows.length, "person", "people")} className="">
          <Table
            list="people"
            label={t("People")}
            rows={rows}
            rowKey={(p) => p.name}
            columns={[
              {
                key: "name",
                label: t("Name"),
                of: (p) => p.name,
                cell: (p) => (
                  <Link
                    to="/people/$person"
                    params={{ person: p.name }}
                    search={{ at }}
                    className="link-quiet font-semibold"
                  >
                    {p.name}
                  </Link>
                ),
              },
              { key: "department", label: t("Department"), of: (p) => p.department },
              { key: "title", label: t("Title"), of: (p) => p.title, className: "dim" },
              {
                key: "holds",
                label: t("Holds"),
                of: (p) => p.holds,
                cell: (p) => (
                  <Link to="/estate" search={{ at, q: p.filter }} className="link-quiet">
                    {p.holds}
                  </Link>
                ),
                num: true,
              },
              {
                key: "signed_in_last_on",
                label: t("Signed in last on"),
                of: (p) => p.signed_in,
                cell: (p) => p.signed_in || "",
                num: true,
              },
              {
                key: "known_from",
                label: t("Known from"),
                of: (p) => p.sources.join(", "),
                cell: (p) => p.sources.join(", ") || t("no system"),
                className: "dim",
              },
              {
                key: "left",
                label: t("Left"),
                of: (p) => p.left_at,
                cell: (p) =>
                  p.left_at && <span className={`tag ${p.holds ? "warn" : ""}`}>{shortDay(p.left_at)}</span>,
              },
            ]}
          />
        </Sheet>
      )}
    </div>
  );
}
