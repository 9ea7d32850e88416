import { Link } from "@tanstack/react-router";
import { useRef, useState } from "react";
import { client, ok, type Schemas } from "../../api/client";
import { useDone } from "../../parts/Sheet";
import { Table } from "../../parts/table/Table";
import { t } from "../../words";
import { Opens } from "./Opens";
import { RecogniserForm } from "./RecogniserForm";

type Row = Schemas["ApplicationOut"];

interface Props {
  rows: Row[];
  at: string | undefined;
  may: boolean;
}

/** What recognisers know: their rules, how many run, their releases, whom they call. */
export function KnownPrograms({ rows, at, may }: Props) {
  const [opened, setOpened] = useState<Row | null>(null);
  return (
    <>
      <ByFile may={may} />
      <div className="sheet overflow-x-auto">
        <Table
          list="known-programs"
          label={t("Programs known by a rule")}
          rows={rows}
          rowKey={(r) => r.id}
          columns={[
            {
              key: "name",
              label: t("Application"),
              of: (r) => r.name,
              className: "max-w-md",
              cell: (r) => (
                <>
                  <button type="button" className="link-quiet font-semibold" onClick={() => setOpened(r)}>
                    {r.name}
                  </button>
                  {r.general && <span className="tag ml-1.5">{t("a sort")}</span>}
                  {!r.general && r.instances > 0 && (
                    <Link
                      to="/services"
                      search={{ at, tab: "stops", program: r.name }}
                      className="link-quiet ml-2 text-[12.5px]"
                    >
                      {t("if it stops")}
                    </Link>
                  )}
                  {!r.in_force && <span className="tag warn ml-1.5">{t("not in force")}</span>}
                  <span className="mono faint block text-[12px] break-words whitespace-normal">{r.rule}</span>
                  {r.wrong && (
                    <span className="block text-[12.5px] text-error">
                      {t("It is not asked: {{wrong}}", { wrong: r.wrong })}
                    </span>
                  )}
                </>
              ),
            },
            { key: "instances", label: t("Instances"), of: (r) => r.instances, num: true },
            {
              key: "devices",
              label: t("Devices"),
              of: (r) => r.devices.devices,
              num: true,
              cell: (r) => <Opens of={r.devices} at={at} />,
            },
            {
              key: "versions",
              label: t("Releases"),
              of: (r) => releases(r),
              cell: (r) => <span className="whitespace-normal">{releases(r)}</span>,
            },
            {
              key: "calls",
              label: t("Calls"),
              of: (r) => r.talks_to.join(", "),
              cell: (r) => <span className="whitespace-normal">{r.talks_to.join(", ") || "–"}</span>,
            },
            { key: "called", label: t("Called by"), of: (r) => r.called_by, num: true },
          ]}
        />
      </div>
      {opened && <RecogniserForm held={opened} may={may} close={() => setOpened(null)} />}
    </>
  );
}

function releases(row: Row): string {
  return Object.entries(row.versions)
    .filter(([v]) => v !== "none read")
    .map(([v, n]) => `${v} (${n})`)
    .join(", ");
}

function ByFile({ may }: { may: boolean }) {
  const chosen = useRef<HTMLInputElement>(null);
  const done = useDone("/api/services");
  const take = async (file: File) =>
    void done(async () => {
      const said = JSON.parse(await file.text()) as Schemas["RecognisersFile"];
      await ok(client.POST("/api/services/recognisers/file", { body: said }));
    }, t("The recognisers of the file are in force."));
  return (
    <div className="flex flex-wrap items-center gap-3 pb-2.5">
      <p className="dim max-w-3xl text-[13.5px]">
        {t(
          "A rule knows a program at once, at each reading to come, and in all that was read before. Those that know a sort of programs only leave them unknown.",
        )}
      </p>
      <span className="flex-1" />
      <a href="/api/services/recognisers/file" download="recognisers.json" className="btn btn-sm">
        {t("As a file")}
      </a>
      {may && (
        <>
          <button type="button" className="btn btn-sm" onClick={() => chosen.current?.click()}>
            {t("Take a file in")}
          </button>
          <input
            ref={chosen}
            type="file"
            accept="application/json"
            className="hidden"
            aria-label={t("File of recognisers")}
            onChange={(e) => {
              const file = e.target.files?.[0];
              if (file) void take(file);
              e.target.value = "";
            }}
          />
        </>
      )}
    </div>
  );
}
