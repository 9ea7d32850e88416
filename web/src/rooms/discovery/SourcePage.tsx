import { useQuery, useQueryClient } from "@tanstack/react-query";
import { Link, useNavigate, useParams } from "@tanstack/react-router";
import { useState } from "react";
import { toast } from "sonner";
import { ApiProblem, client, ok, type Schemas } from "../../api/client";
import { Choice, TextField, useFaults } from "../../parts/Form";
import { capital, count, duration, moment, plural } from "../../parts/format";
import { useMay } from "../../parts/me";
import { Problem, Waiting } from "../../parts/Problem";
import { DirectoryPick } from "./DirectoryPick";
import { type Fields, MappingTable } from "./MappingTable";

type Source = Schemas["SourceOut"];
type Sync = Schemas["SyncOut"];
type Test = Schemas["TestOut"];
type Choices = Schemas["ChoicesOut"];

const GONE: [string, string][] = [
  ["keep", "keep them as they are"],
  ["mark", "mark them as missing"],
  ["retire", "retire them after some days"],
];
const TEXTS: Record<string, [string, string][]> = {
  directory: [
    ["address", "Address"],
    ["base", "Base to search below"],
    ["condition", "Further condition"],
  ],
  other: [
    ["base", "Address of the service"],
    ["list", "Call that lists devices"],
    ["items", "Path of the devices in its answer"],
    ["key", "Path of a device's id"],
    ["detail", "Call for one device, with {id}"],
    ["page_parameter", "Parameter of the page"],
    ["size_parameter", "Parameter of the size"],
    ["next", "Path of the next cursor"],
    ["since", "Parameter for “changed since”"],
  ],
};

/** One other system: how it is asked, a test that stores nothing, and what its syncs brought. */
export function SourcePage() {
  const { source: text } = useParams({ strict: false }) as { source: string };
  const fresh = text === "new";
  const page = useQuery({
    queryKey: ["source", text],
    queryFn: () => ok(client.GET("/api/sources/{number}", { params: { path: { number: Number(text) } } })),
    enabled: !fresh,
    refetchInterval: (q) =>
      q.state.data?.syncs.some((s) => s.state === "waiting" || s.state === "running") ? 700 : false,
  });
  const choices = useQuery({
    queryKey: ["source-choices"],
    queryFn: () => ok(client.GET("/api/sources/choices")),
    staleTime: Number.POSITIVE_INFINITY,
  });
  const error = page.error ?? choices.error;
  if (error) {
    return (
      <div className="p-6">
        <Problem error={error} />
      </div>
    );
  }
  if (!choices.data || (!fresh && !page.data)) return <Waiting what="Opening the source …" />;
  return (
    <Opened
      key={`${text}-${page.data?.source.version ?? 0}`}
      source={page.data?.source ?? null}
      syncs={page.data?.syncs ?? []}
      choices={choices.data}
    />
  );
}

function Opened({ source, syncs, choices }: { source: Source | null; syncs: Sync[]; choices: Choices }) {
  const [values, setValues] = useState({
    name: source?.name ?? "",
    kind: source?.kind ?? "directory",
    credential: source?.credential ? String(source.credential) : "",
    route: source?.route ?? "direct",
    schedule: source?.schedule ?? "",
    gone: source?.gone ?? "keep",
    gone_days: String(source?.gone_days ?? 30),
  });
  const [settings, setSettings] = useState<Record<string, unknown>>(source?.settings ?? {});
  const [test, setTest] = useState<Test | null>(null);
  const [busy, setBusy] = useState(false);
  const { setError, wrong, rest } = useFaults();
  const queries = useQueryClient();
  const navigate = useNavigate();
  const mayPlan = useMay("plan");
  const maySweep = useMay("sweep");
  const credentials = useQuery({
    queryKey: ["credentials"],
    queryFn: () => ok(client.GET("/api/credentials")),
  });
  const isDirectory = values.kind === "directory";
  const set = (change: Partial<typeof values>) => setValues({ ...values, ...change });
  const body = () => ({
    ...values,
    credential: values.credential ? Number(values.credential) : null,
    gone_days: Number(values.gone_days) || 30,
    settings,
    take: source?.take ?? [],
    version: source?.version ?? 0,
  });
  const attempt = async (what: () => Promise<void>) => {
    setError(null);
    setBusy(true);
    try {
      await what();
    } catch (refused) {
      setError(refused);
    } finally {
      setBusy(false);
    }
  };
  const tryIt = () =>
    attempt(async () => setTest(await ok(client.POST("/api/sources/test", { body: body() }))));
  const save = () =>
    attempt(async () => {
      const saved = source
        ? await ok(
            client.PUT("/api/sources/{number}", { params: { path: { number: source.id } }, body: body() }),
          )
        : await ok(client.POST("/api/sources", { body: body() }));
      toast.success(`“${values.name}” is saved.`);
      await queries.invalidateQueries({ queryKey: ["sources"] });
      queries.setQueryData(["source", String(saved.source.id)], saved);
      if (!source)
        await navigate({
          to: "/discovery/sources/$source",
          params: { source: String(saved.source.id) },
          search: {},
        });
    });
  const sync = () =>
    attempt(async () => {
      if (!source) return;
      await ok(client.POST("/api/sources/{number}/syncs", { params: { path: { number: source.id } } }));
      await queries.invalidateQueries({ queryKey: ["source", String(source.id)] });
    });
  const wanted = isDirectory ? "ldap" : "http";
  const offered = credentials.data?.filter((c) => c.protocol === wanted) ?? [];
  return (
    <div className="mx-auto w-full max-w-[1440px] px-4 pb-10">
      <div className="flex flex-wrap items-center gap-3 py-3.5">
        <h1>{source ? source.name : "New source"}</h1>
        <span className="dim text-[13.5px]">
          {source
            ? `${capital(source.kind)} · knows ${plural(source.devices, "device")}${source.missing ? ` · ${source.missing} no longer there` : ""}`
            : "Another system that knows devices."}
        </span>
        <span className="flex-1" />
        <Link to="/discovery" search={{}} className="btn btn-sm">
          Discovery
        </Link>
        {mayPlan && (
          <>
            <button type="button" className="btn btn-sm" disabled={busy} onClick={tryIt}>
              Test
            </button>
            <button type="button" className="btn btn-sm" disabled={busy} onClick={save}>
              Save
            </button>
          </>
        )}
        {source && maySweep && (
          <button type="button" className="btn btn-primary btn-sm" disabled={busy} onClick={sync}>
            Sync now
          </button>
        )}
      </div>
      {rest}
      <div className="grid items-start gap-3 lg:grid-cols-[1fr_1fr]">
        <section className="sheet px-4 py-3" aria-label="How it is asked">
          <div className="grid gap-x-4 sm:grid-cols-2">
            <TextField
              label="Name"
              required
              value={values.name}
              set={(name) => set({ name })}
              wrong={wrong("name")}
            />
            <Choice
              label="Kind"
              value={values.kind}
              set={(kind) => set({ kind, credential: "" })}
              options={choices.kinds.map((k) => [k, k] as const)}
              wrong={wrong("kind")}
            />
            <Choice
              label="Credential"
              value={values.credential}
              set={(credential) => set({ credential })}
              options={[
                ["", isDirectory ? "choose one" : "none"],
                ...offered.map((c) => [String(c.id), c.name] as const),
              ]}
              wrong={wrong("credential")}
            />
            <Choice
              label="Route"
              value={values.route}
              set={(route) => set({ route })}
              options={[
                ["direct", "direct"],
                ["lab", "lab"],
              ]}
            />
            {!isDirectory && (
              <Choice
                label="Start from a mapping"
                value=""
                set={(name) => name && setSettings(choices.prepared[name] ?? {})}
                options={[["", "as it stands"], ...Object.keys(choices.prepared).map((n) => [n, n] as const)]}
              />
            )}
            {(TEXTS[isDirectory ? "directory" : "other"] ?? []).map(([key, label]) => (
              <TextField
                key={key}
                label={label}
                mono
                value={String(settings[key] ?? "")}
                set={(value) => setSettings({ ...settings, [key]: value })}
                wrong={wrong(`settings.${key}`)}
              />
            ))}
            {!isDirectory && (
              <>
                <Choice
                  label="Format"
                  value={String(settings.format ?? "json")}
                  set={(format) => setSettings({ ...settings, format })}
                  options={[
                    ["json", "JSON"],
                    ["xml", "XML"],
                  ]}
                  wrong={wrong("settings.format")}
                />
                <Choice
                  label="Pages"
                  value={String(settings.paging ?? "none")}
                  set={(paging) => setSettings({ ...settings, paging })}
                  options={["none", "page", "offset", "cursor"].map((p) => [p, p] as const)}
                  wrong={wrong("settings.paging")}
                />
              </>
            )}
            <TextField
              label="Recurrence rule"
              mono
              value={values.schedule}
              set={(schedule) => set({ schedule })}
              wrong={wrong("schedule")}
              hint={
                source?.schedule_words || "Empty: by hand. FREQ=DAILY;BYHOUR=2;BYMINUTE=0 is every night."
              }
            />
            <Choice
              label="Devices it no longer knows"
              value={values.gone}
              set={(gone) => set({ gone })}
              options={GONE}
              wrong={wrong("gone")}
            />
            {values.gone === "retire" && (
              <TextField
                label="After days"
                type="number"
                value={values.gone_days}
                set={(gone_days) => set({ gone_days })}
                wrong={wrong("gone_days")}
              />
            )}
          </div>
          {!isDirectory && (
            <MappingTable
              targets={choices.targets}
              units={choices.units}
              fields={(settings.fields ?? {}) as Fields}
              set={(fields) => setSettings({ ...settings, fields })}
              wrong={wrong("settings.fields")}
            />
          )}
        </section>
        <div className="grid min-w-0 gap-3">
          {test && <TestResult test={test} />}
          {source && isDirectory && <DirectoryPick source={source} />}
          {source && <Syncs syncs={syncs} />}
          {!test && !source && (
            <p className="sheet dim px-4 py-5 text-[13px]">
              Describe how it is asked, then test: a sample is shown and nothing is stored.
            </p>
          )}
        </div>
      </div>
    </div>
  );
}

function TestResult({ test }: { test: Test }) {
  const columns = [...new Set(test.sample.flatMap((r) => Object.keys(r.facts)))].slice(0, 8);
  return (
    <section className="sheet min-w-0 overflow-hidden" aria-labelledby="test-title">
      <h2 id="test-title" className="dim px-3.5 pt-2.5 pb-1.5 text-[12px] font-semibold">
        What it would bring
      </h2>
      {test.problem ? (
        <p role="alert" className="px-3.5 pb-3 text-[13px]">
          <b className="text-error">{test.problem}</b> <span className="dim">{test.remedy}</span>
        </p>
      ) : (
        <p className="px-3.5 pb-2 text-[13px]" role="status">
          {plural(test.found, "device")} in {test.took_ms} ms; nothing was stored. The first{" "}
          {test.sample.length}:
        </p>
      )}
      {test.faults.length > 0 && (
        <ul className="px-3.5 pb-2 text-[13px]">
          {test.faults.map((f) => (
            <li key={f.says}>
              <b className="tabular-nums">{f.count}</b> × {f.says}
            </li>
          ))}
        </ul>
      )}
      {test.sample.length > 0 && (
        <div className="overflow-x-auto">
          <table className="grid-table">
            <thead>
              <tr>
                <th>Called</th>
                {columns.map((c) => (
                  <th key={c}>{c.replace(/_/g, " ")}</th>
                ))}
              </tr>
            </thead>
            <tbody>
              {test.sample.map((r) => (
                <tr key={r.key}>
                  <td className="mono whitespace-nowrap">{r.label}</td>
                  {columns.map((c) => (
                    <td key={c} className="whitespace-nowrap">
                      {String(r.facts[c] ?? "")}
                    </td>
                  ))}
                </tr>
              ))}
            </tbody>
          </table>
        </div>
      )}
    </section>
  );
}

function Syncs({ syncs }: { syncs: Sync[] }) {
  return (
    <section className="sheet" aria-labelledby="syncs-title">
      <h2 id="syncs-title" className="dim px-3.5 pt-2.5 pb-1.5 text-[12px] font-semibold">
        Syncs
      </h2>
      {syncs.length === 0 && <p className="dim px-3.5 pb-3 text-[13px]">None yet.</p>}
      <ul>
        {syncs.map((s) => (
          <li key={s.id} className="border-t border-base-300 px-3.5 py-2 text-[13px]">
            <span className={`tag ${s.state === "done" ? "ok" : s.state === "failed" ? "bad" : "note"}`}>
              {s.state}
            </span>{" "}
            {moment(new Date(s.made_at * 1000).toISOString())}
            {s.ended_at ? ` · ${duration(s.ended_at - s.made_at)}` : ""}
            {s.since ? " · only what had changed" : ""}
            {" · "}
            {Object.entries(s.counts)
              .map(([what, n]) => `${count(n)} ${what}`)
              .join(", ")}
            {s.message && <p className="font-semibold text-error">{s.message}</p>}
            {s.faults.length > 0 && (
              <details>
                <summary className="dim">{plural(s.faults.length, "value")} could not be read</summary>
                <ul>
                  {s.faults.map((f) => (
                    <li key={`${f.key}${f.says}`}>
                      <span className="mono">{f.label}</span> {f.says}
                    </li>
                  ))}
                </ul>
              </details>
            )}
          </li>
        ))}
      </ul>
    </section>
  );
}

/** A small table of the sources, for the room's first page. */
export function SourcesTable({ mayPlan }: { mayPlan: boolean }) {
  const sources = useQuery({ queryKey: ["sources"], queryFn: () => ok(client.GET("/api/sources")) });
  const failed = sources.error instanceof ApiProblem ? sources.error : null;
  return (
    <section className="sheet mt-5 overflow-x-auto" aria-labelledby="sources-title">
      <div className="flex items-center px-3.5 py-2">
        <h2 id="sources-title" className="text-[15px] font-semibold">
          Other systems
        </h2>
        <span className="flex-1" />
        {mayPlan && (
          <span className="flex gap-2">
            <Link to="/discovery/imports" search={{}} className="btn btn-sm">
              From a file
            </Link>
            <Link
              to="/discovery/sources/$source"
              params={{ source: "new" }}
              search={{}}
              className="btn btn-sm"
            >
              New source
            </Link>
          </span>
        )}
      </div>
      {failed && <Problem error={failed} />}
      <table className="grid-table">
        <thead>
          <tr>
            <th>Name</th>
            <th>Kind</th>
            <th className="num">Devices</th>
            <th className="num">No longer there</th>
            <th>Last sync</th>
            <th>Starts</th>
          </tr>
        </thead>
        <tbody>
          {sources.data?.map((s) => (
            <tr key={s.id}>
              <td>
                <Link
                  to="/discovery/sources/$source"
                  params={{ source: String(s.id) }}
                  search={{}}
                  className="link-quiet font-semibold"
                >
                  {s.name}
                </Link>
              </td>
              <td>{s.kind}</td>
              <td className="num">{count(s.devices)}</td>
              <td className="num">{s.missing || ""}</td>
              <td>
                {s.last_sync
                  ? `${s.last_sync.state}, ${moment(new Date(s.last_sync.made_at * 1000).toISOString())}`
                  : "never"}
              </td>
              <td className="dim">{s.schedule_words || "by hand"}</td>
            </tr>
          ))}
        </tbody>
      </table>
      {sources.data?.length === 0 && (
        <p className="dim px-3.5 py-3 text-[13px]">
          None yet: a directory, device management or another inventory can say what it knows.
        </p>
      )}
    </section>
  );
}
