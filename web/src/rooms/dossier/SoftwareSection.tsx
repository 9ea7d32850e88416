import { useQueryClient } from "@tanstack/react-query";
import { useId, useState } from "react";
import { toast } from "sonner";
import { postForm } from "../../api/client";
import type { SoftwareRow } from "../../api/types";
import { useDial } from "../../parts/dial";
import { EvidenceMarks } from "../../parts/Evidence";
import { plural, shortDay } from "../../parts/format";
import { useMay } from "../../parts/me";
import { sayRefused } from "../../parts/refusal";
import { Section } from "../../parts/Section";
import { Table } from "../../parts/table/Table";
import { t } from "../../words";

const FIRST = 12;

export function SoftwareSection({ software, asset }: { software: SoftwareRow[]; asset: number }) {
  const mayPlan = useMay("plan");
  const { past } = useDial();
  const [find, setFind] = useState("");
  const [all, setAll] = useState(false);
  const wanted = find.trim().toLowerCase();
  const found = software.filter((s) => !wanted || `${s.name} ${s.publisher}`.toLowerCase().includes(wanted));
  // What changed last is looked for first; what came with the first reading follows by name.
  const ordered = [...found].sort(
    (a, b) =>
      Number(a.since_first_reading) - Number(b.since_first_reading) ||
      (a.since_first_reading ? a.name.localeCompare(b.name) : b.since.localeCompare(a.since)),
  );
  const shown = all || wanted ? ordered : ordered.slice(0, FIRST);
  return (
    <Section
      id="software"
      title={t("Software, {{packages}}", { packages: plural(software.length, "package") })}
      flush
    >
      {mayPlan && !past && <BillOfMaterials asset={asset} />}
      {software.length === 0 ? (
        <p className="dim px-3.5 pb-3 text-[13px]">{t("No source lists what is installed here.")}</p>
      ) : (
        <>
          <div className="px-3.5 pb-2">
            <input
              type="search"
              className="input input-sm w-full"
              placeholder={t("Find a package or publisher")}
              aria-label={t("Find a package or publisher")}
              value={find}
              onChange={(e) => setFind(e.target.value)}
            />
          </div>
          <Table
            list="dossier-software"
            label={t("Software")}
            rows={shown}
            rowKey={(s) => s.name + s.version}
            columns={[
              { key: "product", label: t("Product"), of: (s) => s.name },
              { key: "release", label: t("Release"), of: (s) => s.version, mono: true },
              { key: "publisher", label: t("Publisher"), of: (s) => s.publisher, className: "dim" },
              {
                key: "since",
                label: t("Since"),
                of: (s) => s.since,
                cell: (s) =>
                  s.since_first_reading ? (
                    <span
                      className="faint"
                      title={t("Found at the first reading, {{since}}", { since: shortDay(s.since) })}
                    >
                      {t("before {{since}}", { since: shortDay(s.since) })}
                    </span>
                  ) : (
                    shortDay(s.since)
                  ),
                className: "whitespace-nowrap",
              },
              { key: "do", label: "", cell: (s) => <EvidenceMarks kinds={s.source_kinds} /> },
            ]}
          />
          {found.length === 0 && (
            <p className="dim px-3.5 py-3 text-[13px]">
              {t("Nothing installed has “{{find}}” in its name.", { find })}
            </p>
          )}
          {!all && !wanted && ordered.length > FIRST && (
            <button
              type="button"
              className="link-quiet w-full px-3.5 py-2 text-left text-[13px] font-semibold"
              onClick={() => setAll(true)}
            >
              {t("Show all {{ordered}}", { ordered: ordered.length })}
            </button>
          )}
        </>
      )}
    </Section>
  );
}

/** Takes a CycloneDX file in as what is installed here, beside what other sources say. */
function BillOfMaterials({ asset }: { asset: number }) {
  const id = useId();
  const queries = useQueryClient();
  const take = async (file: File | undefined) => {
    if (!file) return;
    const body = new FormData();
    body.set("file", file);
    try {
      await postForm(`/api/assets/${asset}/sbom`, body);
      toast.success(t("“{{name}}” is taken in as a source of its own.", { name: file.name }));
      await queries.invalidateQueries();
    } catch (error) {
      sayRefused(error, t("It could not be taken in."));
    }
  };
  return (
    <p className="px-3.5 pb-1.5 text-[13px]">
      <label htmlFor={id} className="link-quiet cursor-pointer font-semibold focus-within:underline">
        {t("Add a bill of materials")}
        <input
          id={id}
          type="file"
          accept=".json"
          className="sr-only"
          onChange={(e) => {
            void take(e.target.files?.[0]);
            e.target.value = "";
          }}
        />
      </label>{" "}
      <span className="dim">{t("CycloneDX, JSON")}</span>
    </p>
  );
}
