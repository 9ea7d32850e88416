import { useQuery } from "@tanstack/react-query";
import { Link } from "@tanstack/react-router";
import { asks } from "../../api/asking";
import { ApiProblem } from "../../api/client";
import { count, iso, moment, plural } from "../../parts/format";
import { Problem } from "../../parts/Problem";
import { Sheet } from "../../parts/Sheet";
import { Table } from "../../parts/table/Table";
import { t, word } from "../../words";

/** A small table of the sources, for the room's first page. */
export function SourcesTable({ mayPlan }: { mayPlan: boolean }) {
  const sources = useQuery(asks("/api/sources"));
  const failed = sources.error instanceof ApiProblem ? sources.error : null;
  return (
    <Sheet
      id="sources"
      title={t("Other systems")}
      className="mt-5"
      actions={
        mayPlan && (
          <>
            <Link to="/discovery/imports" search={{}} className="btn btn-sm">
              {t("From a file")}
            </Link>
            <Link
              to="/discovery/sources/$source"
              params={{ source: "new" }}
              search={{}}
              className="btn btn-sm"
            >
              {t("New source")}
            </Link>
          </>
        )
      }
    >
      {failed && <Problem error={failed} />}
      <Table
        list="sources-table"
        label={t("Other systems")}
        rows={sources.data ?? []}
        rowKey={(s) => s.id}
        columns={[
          {
            key: "name",
            label: t("Name"),
            of: (s) => s.name,
            cell: (s) => (
              <Link
                to="/discovery/sources/$source"
                params={{ source: String(s.id) }}
                search={{}}
                className="link-quiet font-semibold"
              >
                {s.name}
              </Link>
            ),
          },
          { key: "kind", label: t("Kind"), of: (s) => word(s.kind) },
          {
            key: "devices",
            label: t("Devices"),
            of: (s) => (s.kind === "people" ? (s.last_sync?.counts.people ?? 0) : s.devices),
            cell: (s) =>
              s.kind === "people"
                ? plural(s.last_sync?.counts.people ?? 0, "person", "people")
                : count(s.devices),
            num: true,
          },
          {
            key: "no_longer_there",
            label: t("No longer there"),
            of: (s) => s.missing,
            cell: (s) => s.missing || "",
            num: true,
          },
          {
            key: "last_sync",
            label: t("Last sync"),
            of: (s) => s.last_sync && iso(s.last_sync.made_at),
            cell: (s) =>
              s.last_sync ? `${s.last_sync.state}, ${moment(iso(s.last_sync.made_at))}` : t("never"),
          },
          {
            key: "starts",
            label: t("Starts"),
            of: (s) => s.schedule_words || t("by hand"),

            className: "dim",
          },
        ]}
      />
      {sources.data?.length === 0 && (
        <p className="dim px-3.5 py-3 text-[13px]">
          {t("None yet: a directory, device management or another inventory can say what it knows.")}
        </p>
      )}
    </Sheet>
  );
}
