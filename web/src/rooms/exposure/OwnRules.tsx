import { useQuery } from "@tanstack/react-query";
import { Link } from "@tanstack/react-router";
import { useState } from "react";
import { asks } from "../../api/asking";
import type { Schemas } from "../../api/client";
import { both } from "../../parts/ask/written";
import { count, plural, shortDay } from "../../parts/format";
import { Grade } from "../../parts/Graded";
import { useMay } from "../../parts/me";
import { Empty, Unanswered } from "../../parts/Problem";
import { type Sift, Sifts } from "../../parts/Sifts";
import { Table } from "../../parts/table/Table";
import { t, word } from "../../words";
import type { Asked } from "./asked";
import { OwnRuleForm } from "./OwnRuleForm";

type Rule = Schemas["OwnRuleOut"];

const SIFTS: Sift<Rule>[] = [
  ["finds", t("Find something"), (r) => r.in_force && r.devices > 0],
  ["nothing", t("Find nothing"), (r) => r.in_force && r.devices === 0],
  ["out", t("Not in force"), (r) => !r.in_force],
  ["own", t("Made here"), (r) => !r.shipped],
];

/** Rules of our own: whatever fits one is a finding, graded, promised and ended like any other. */
export function OwnRules({ filter, at }: Asked) {
  const [sift, setSift] = useState<string | null>(null);
  const [opened, setOpened] = useState<Rule | "new" | null>(null);
  const asked = useQuery({
    ...asks("/api/exposure/own", { params: { query: { filter, as_of: at } } }),
    placeholderData: (before) => before,
  });
  const may = useMay("plan") && !at;
  if (asked.error || !asked.data)
    return <Unanswered asked={asked} what={t("Looking for what fits our rules …")} />;
  const rules = asked.data.rules;
  const first = SIFTS.find(([, , fits]) => rules.some(fits))?.[0];
  const chosen = SIFTS.find(([key]) => key === (sift ?? first)) ?? SIFTS[0];
  const shown = rules.filter(chosen?.[2] ?? (() => true));
  return (
    <>
      <Sifts label={t("Which rules")} sifts={SIFTS} rows={rules} chosen={chosen?.[0]} set={setSift}>
        {may && (
          <button type="button" className="btn btn-sm order-last ml-auto" onClick={() => setOpened("new")}>
            {t("New rule")}
          </button>
        )}
      </Sifts>
      {shown.length === 0 ? (
        <Empty title={t("No rule is of this sort.")}>{t("The other buttons above may have some.")}</Empty>
      ) : (
        <div className="sheet overflow-x-auto">
          <Table
            list="own-rules"
            label={t("Findings of our own")}
            rows={shown}
            rowKey={(r) => r.id}
            columns={[
              {
                key: "name",
                label: t("Rule"),
                of: (r) => r.name,
                cell: (r) => (
                  <>
                    <b className="font-semibold">{r.name}</b>
                    <span className="faint block text-[12px]">{r.todo}</span>
                    {r.wrong && (
                      <span className="block text-[12.5px] text-error">
                        {t("It is not asked: {{wrong}}", { wrong: r.wrong })}
                      </span>
                    )}
                  </>
                ),
                className: "max-w-md",
              },
              {
                key: "devices",
                label: t("Devices"),
                of: (r) => r.devices,
                cell: (r) => (
                  <Link to="/estate" search={{ at, q: both(filter, r.opens) }} className="link-quiet">
                    {count(r.devices)}
                  </Link>
                ),
                num: true,
              },
              {
                key: "grade",
                label: t("Asks for"),
                of: (r) => word(r.grade),
                cell: (r) => <Grade grade={r.grade} />,
              },
              {
                key: "promised",
                label: t("Promised within"),
                of: (r) => r.promised,
                cell: (r) =>
                  r.promised === null ? (
                    <span className="faint">{t("no promise")}</span>
                  ) : (
                    plural(r.promised, "day")
                  ),
                className: "whitespace-nowrap",
              },
              {
                key: "since",
                label: t("Open since"),
                of: (r) => r.since?.slice(0, 10),
                cell: (r) => (r.since ? shortDay(r.since) : ""),
                className: "whitespace-nowrap",
              },
              {
                key: "late",
                label: t("Late"),
                of: (r) => r.late,
                cell: (r) => (r.late ? <span className="tag bad">{plural(r.late, "device")}</span> : ""),
                className: "whitespace-nowrap",
              },
              {
                key: "filter",
                label: t("What fits"),
                of: (r) => r.filter,
                mono: true,
                className: "max-w-sm",
                spare: true,
              },
              {
                key: "do",
                label: "",
                cell: (r) =>
                  may && (
                    <button
                      type="button"
                      className="link-quiet font-semibold"
                      aria-label={t("Change {{name}}", { name: r.name })}
                      onClick={() => setOpened(r)}
                    >
                      {t("Change")}
                    </button>
                  ),
              },
            ]}
          />
        </div>
      )}
      {opened && (
        <OwnRuleForm
          held={opened === "new" ? null : opened}
          verbs={asked.data.verbs}
          close={() => setOpened(null)}
        />
      )}
    </>
  );
}
