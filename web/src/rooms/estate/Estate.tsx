import { useQuery } from "@tanstack/react-query";
import { useNavigate, useSearch } from "@tanstack/react-router";
import { lazy, Suspense, useEffect, useMemo, useState } from "react";
import { asks } from "../../api/asking";
import { ApiProblem, narrowed } from "../../api/client";
import type { FieldInfo } from "../../api/types";
import { CountDialog } from "../../parts/acts/CountDialog";
import { LabelDialog } from "../../parts/acts/LabelDialog";
import { StepDialog } from "../../parts/acts/StepDialog";
import { TaskDialog } from "../../parts/acts/TaskDialog";
import { AskLine } from "../../parts/ask/AskLine";
import { dialWords } from "../../parts/dial";
import { count, plural } from "../../parts/format";
import { Menu } from "../../parts/Menu";
import { useMay } from "../../parts/me";
import { EnterDialog } from "../../parts/own/EnterDialog";
import { Problem, Waiting } from "../../parts/Problem";
import { useRegistry } from "../../parts/registry";
import type { Search } from "../../search";
import { t } from "../../words";
import { ActDialog } from "./ActDialog";
import { useColumns } from "./columns";
import { KeepDialog, SetsMenu } from "./Keeping";
import { KeptViews } from "./KeptViews";
import { Peek } from "./Peek";
import { Register } from "./Register";
import { remember } from "./recent";
import { BAND_WORDS, Strata } from "./Strata";

const DEFAULT_BANDS = ["kind", "platform", "place", "last_seen", "evidence"];

const Builder = lazy(() => import("../../parts/ask/build/Builder").then((m) => ({ default: m.Builder })));

/** One way to look at a selection; `padded`: in a page of its own width. */
export interface Lens {
  key: string;
  label: string;
  padded: boolean;
  Shown: React.ComponentType<{ filter: string; at: string | undefined }>;
}

/** Selection × lens: the ask line, the strata under it, and the register as the first lens. */
export function Estate({ lenses }: { lenses: Lens[] }) {
  const {
    at,
    q = "",
    sort = "name",
    bands: bandText,
    cols,
    peek,
    tab,
  } = useSearch({ strict: false }) as Search;
  const navigate = useNavigate();
  const go = (change: Partial<Search>, replace = false) =>
    void navigate({
      to: "/estate",
      search: ((before: Search) => ({ ...before, ...change })) as never,
      replace,
    });
  const bands = bandText ? bandText.split(",") : DEFAULT_BANDS;
  const [columns, setColumns] = useColumns(cols, (next) => go({ cols: next }, true));
  const registry = useRegistry();
  const fields = useMemo(
    () => new Map<string, FieldInfo>(registry.data?.fields.map((f) => [f.name, f])),
    [registry.data],
  );
  const head = useQuery({
    ...asks("/api/assets", { params: { query: { filter: q, as_of: at, limit: 0 } } }),
    placeholderData: (before) => before,
  });
  const [keeping, setKeeping] = useState(false);
  const mayKeep = useMay("keep");
  const mayDecide = useMay("decide");
  const mayRun = useMay("tasks");
  const [acting, setActing] = useState(false);
  const [running, setRunning] = useState(false);
  const [labelling, setLabelling] = useState(false);
  const [counting, setCounting] = useState(false);
  const [stepping, setStepping] = useState(false);
  const [entering, setEntering] = useState(false);
  const [building, setBuilding] = useState(false);
  const setFilter = (filter: string) =>
    go({
      q: filter || undefined,
      peek: undefined,
      // Devices named one by one stay in their order while they are narrowed.
      ...(sort.endsWith("given") && !filter.includes("number in (") ? { sort: undefined } : {}),
    });
  useEffect(() => {
    if (head.data) remember(q); // only what could be read
  }, [q, head.data]);
  const wrong = head.error;
  const lens = lenses.find((l) => l.key === tab);
  const unplaced =
    wrong && !(wrong instanceof ApiProblem && wrong.problem.start !== undefined) ? wrong : null;
  const shownColumns = columns.filter((c) => c === "evidence" || fields.has(c));
  const fileOf = (format: string) =>
    narrowed(
      `/api/reports/asked/${format}?${new URLSearchParams({
        filter: q,
        sort,
        fields: shownColumns.filter((c) => c !== "evidence").join(","),
        ...(at ? { as_of: at } : {}),
      })}`,
    );
  return (
    <>
      <h1 className="sr-only">{t("Estate")}</h1>
      <section className="flex-none border-b border-base-300 bg-base-100 px-4 pt-2.5 pb-2">
        <div className="flex items-start gap-2">
          <div className="min-w-0 flex-1">
            <AskLine
              value={q}
              error={wrong}
              submit={setFilter}
              given={(filter) => go({ q: filter, sort: "given", peek: undefined, tab: undefined })}
            />
          </div>
          <button
            type="button"
            className="btn hidden h-[36px] sm:inline-flex"
            aria-expanded={building}
            onClick={() => setBuilding(!building)}
          >
            {t("Build")}
          </button>
          <SetsMenu filter={q} pick={setFilter} />
          {mayKeep && !at && (
            <button
              type="button"
              className="btn btn-primary hidden h-[36px] sm:inline-flex"
              disabled={!q || Boolean(wrong)}
              onClick={() => setKeeping(true)}
            >
              {t("Keep as a set")}
            </button>
          )}
          {mayDecide && !at && (
            <button
              type="button"
              className="btn hidden h-[36px] sm:inline-flex"
              disabled={Boolean(wrong) || !head.data?.total || !q}
              onClick={() => setActing(true)}
            >
              {t("Change these")}
            </button>
          )}
          {mayDecide && !at && (
            <button
              type="button"
              className="btn hidden h-[36px] lg:inline-flex"
              disabled={Boolean(wrong) || !head.data?.total || !q}
              onClick={() => setStepping(true)}
            >
              {t("Take a step")}
            </button>
          )}
          {mayRun && !at && (
            <button
              type="button"
              className="btn hidden h-[36px] lg:inline-flex"
              disabled={Boolean(wrong) || !head.data?.total || !q}
              onClick={() => setRunning(true)}
            >
              {t("Run a task")}
            </button>
          )}
          {mayDecide && !at && (
            <button
              type="button"
              className="btn hidden h-[36px] lg:inline-flex"
              disabled={Boolean(wrong) || !head.data?.total || !q}
              onClick={() => setLabelling(true)}
            >
              {t("Labels")}
            </button>
          )}
          {mayDecide && !at && (
            <button
              type="button"
              className="btn hidden h-[36px] lg:inline-flex"
              disabled={Boolean(wrong) || !head.data?.total || !q}
              onClick={() => setCounting(true)}
            >
              {t("Count")}
            </button>
          )}
        </div>
        <p className="dim mt-1 px-0.5 text-[13px]" aria-live="polite">
          {head.data && !wrong && (
            <>
              <b className="text-base-content">
                {q
                  ? t("{{total}} of {{assets}}", {
                      total: count(head.data.total),
                      assets: plural(head.data.of, "asset"),
                    })
                  : plural(head.data.of, "asset")}
              </b>
              {q ? ` — ${head.data.sentence}` : t(" in the register")}
              {at ? `, ${dialWords(at)}` : ""}.
            </>
          )}{" "}
        </p>
        {unplaced !== null && <Problem error={unplaced} />}
        {building && registry.data && (
          <Suspense fallback={<Waiting what={t("Laying out the question …")} />}>
            <Builder value={q} registry={registry.data} submit={setFilter} close={() => setBuilding(false)} />
          </Suspense>
        )}
      </section>
      <section
        className="hidden flex-none border-b border-base-300 bg-base-100 px-4 py-2 sm:block"
        aria-label={t("Strata")}
      >
        {!wrong && <Strata filter={q} at={at} bands={bands} change={setFilter} />}
      </section>
      <div className="flex flex-none flex-wrap items-end gap-1 border-b border-base-300 px-4 pt-2">
        {[{ key: undefined, label: t("Register") }, ...lenses].map(({ key, label }) => (
          <button
            key={label}
            type="button"
            aria-pressed={tab === key}
            onClick={() => go({ tab: key, peek: undefined })}
            className={`-mb-px rounded-t-[8px] px-3 py-1.5 text-[13px] font-semibold ${
              tab === key ? "border border-b-0 border-base-300 bg-base-100 text-primary" : "dim"
            }`}
          >
            {label}
          </button>
        ))}
        <div className={`ml-auto items-center pb-1 ${tab ? "hidden" : "hidden sm:flex"}`}>
          <KeptViews
            now={{ filter: q, columns: shownColumns, sort, bands }}
            choose={(view) => {
              go({
                q: view.filter || undefined,
                sort: view.sort && view.sort !== "name" ? view.sort : undefined,
                bands: view.bands.length ? view.bands.join(",") : undefined,
                cols: view.columns.length ? view.columns.join(",") : undefined,
                peek: undefined,
              });
            }}
          />
          <Chooser
            label={t("Bands")}
            all={(registry.data?.bands ?? []).map((b) => [b, BAND_WORDS[b] ?? b])}
            chosen={bands}
            change={(next) =>
              go({ bands: next.join(",") === DEFAULT_BANDS.join(",") ? undefined : next.join(",") }, true)
            }
          />
          <Chooser
            label={t("Columns")}
            all={[...fields.values()]
              .map((f): [string, string] => [f.name, f.label])
              .concat([["evidence", t("Evidence")]])}
            chosen={shownColumns}
            change={setColumns}
          />
          {mayDecide && !at && (
            <button
              type="button"
              className="btn btn-ghost btn-sm text-info"
              onClick={() => setEntering(true)}
            >
              {t("Enter one")}
            </button>
          )}
          <Menu label={t("Export")}>
            {FILES.map(([format, words]) => (
              <a
                key={format}
                className="block rounded px-2 py-1 text-[13px] hover:bg-[var(--head)]"
                href={fileOf(format)}
                download
              >
                {words}
              </a>
            ))}
          </Menu>
        </div>
      </div>
      <div className="flex min-h-[220px] flex-1 basis-0">
        <div className="min-w-0 flex-1">
          {lens && !wrong ? (
            <div className={lens.padded ? "h-full overflow-auto px-4 pb-6" : "h-full"}>
              <Suspense fallback={<Waiting what={t("Counting …")} />}>
                <lens.Shown filter={q} at={at} />
              </Suspense>
            </div>
          ) : head.data && !wrong && registry.data ? (
            <Register
              filter={q}
              at={at}
              sort={sort}
              total={head.data.total}
              columns={shownColumns}
              setColumns={setColumns}
              fields={fields}
              peeked={peek}
              setSort={(next) => go({ sort: next === "name" ? undefined : next }, true)}
              setFilter={setFilter}
              setPeek={(asset) => go({ peek: asset }, true)}
            />
          ) : wrong ? (
            <p className="dim px-5 py-6">{t("The list waits for a question that can be read.")}</p>
          ) : (
            <Waiting what={t("Asking the register …")} />
          )}
        </div>
        {peek !== undefined && (
          <aside
            className="hidden w-[372px] flex-none overflow-auto border-l border-base-300 bg-base-100 md:block"
            aria-label={t("Peek")}
          >
            <Peek asset={peek} at={at} close={() => go({ peek: undefined }, true)} />
          </aside>
        )}
      </div>
      {acting && head.data && <ActDialog filter={q} total={head.data.total} close={() => setActing(false)} />}
      {stepping && head.data && (
        <StepDialog
          assets={[]}
          filter={q}
          total={head.data.total}
          named={plural(head.data.total, "device")}
          close={() => setStepping(false)}
        />
      )}
      {entering && <EnterDialog close={() => setEntering(false)} />}
      {labelling && head.data && (
        <LabelDialog
          filter={q}
          assets={[]}
          named={plural(head.data.total, "device")}
          total={head.data.total}
          close={() => setLabelling(false)}
        />
      )}
      {counting && <CountDialog filter={q} close={() => setCounting(false)} />}
      {running && <TaskDialog filter={q} close={() => setRunning(false)} />}
      {keeping && <KeepDialog filter={q} close={() => setKeeping(false)} />}
    </>
  );
}

const FILES = [
  ["xlsx", t("Workbook (XLSX)")],
  ["ods", t("OpenDocument (ODS)")],
  ["csv", "CSV"],
] as const;

interface ChooserProps {
  label: string;
  all: [string, string][];
  chosen: string[];
  change: (chosen: string[]) => void;
}

function Chooser({ label, all, chosen, change }: ChooserProps) {
  return (
    <Menu label={label}>
      {all.map(([name, words]) => (
        <label
          key={name}
          className="flex items-center gap-2 rounded px-1.5 py-1 text-[13px] hover:bg-[var(--head)]"
        >
          <input
            type="checkbox"
            className="checkbox checkbox-xs"
            checked={chosen.includes(name)}
            disabled={chosen.length === 1 && chosen.includes(name)}
            onChange={(e) => change(e.target.checked ? [...chosen, name] : chosen.filter((c) => c !== name))}
          />
          {words}
        </label>
      ))}
    </Menu>
  );
}
