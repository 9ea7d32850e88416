import { useQuery } from "@tanstack/react-query";
import { asks } from "../../api/asking";
import { t } from "../../words";
import { useDial } from "../dial";
import { day } from "../format";
import { Problem } from "../Problem";
import { Section } from "../Section";
import { Table } from "../table/Table";

export function useCover(asset: number) {
  const { at } = useDial();
  return useQuery(
    asks("/api/lifecycle/assets/{asset}/cover", {
      params: { path: { asset }, query: { as_of: at } },
    }),
  );
}

/** In one sentence whether it is in cover, put before whoever sends it to repair. */
export function CoverWords({ asset }: { asset: number }) {
  const asked = useCover(asset);
  if (asked.error) return <Problem error={asked.error} />;
  if (!asked.data) return null;
  const c = asked.data;
  return (
    <p
      role="status"
      className={`tag ${c.in_cover ? "ok" : "warn"} mb-3 !block !whitespace-normal !px-3 !py-2 !text-[13px] !leading-snug`}
    >
      {c.says}
      {c.conflict && <span className="block font-normal">{c.conflict}.</span>}
    </p>
  );
}

/** Everything that covers an asset, and who says so. */
export function CoverSection({ asset }: { asset: number }) {
  const c = useCover(asset).data;
  if (!c?.covers.length) return null;
  return (
    <Section id="cover" title={t("Cover")} flush>
      <div className="px-3.5">
        <CoverWords asset={asset} />
      </div>
      <Table
        list="cover"
        label={t("Cover")}
        rows={c.covers}
        rowKey={(one) => `${one.name}${one.who}${one.ends}`}
        rowClass={(one) => (one.holds ? undefined : "dim")}
        columns={[
          {
            key: "cover",
            label: t("Cover"),
            of: (one) => one.name,
            cell: (one) => (
              <>
                {one.name}
                {one.level && <span className="faint block text-[12px]">{one.level}</span>}
              </>
            ),
          },
          {
            key: "until",
            label: t("Until"),
            of: (one) => one.ends,
            cell: (one) => (
              <>
                {one.ends ? day(one.ends) : t("no end")}
                {!one.holds && (
                  <span className="tag ml-2">
                    {one.begins && one.begins > (one.ends ?? "") ? t("to come") : t("not in force")}
                  </span>
                )}
              </>
            ),
            className: "whitespace-nowrap",
          },
          {
            key: "who_says_so",
            label: t("Who says so"),
            of: (one) => one.who,
            cell: (one) => (
              <>
                {one.who}
                {one.claim && <span className="faint block text-[12px]">{one.claim}</span>}
              </>
            ),
            className: "dim",
          },
        ]}
      />
    </Section>
  );
}
