import { useQuery, useQueryClient } from "@tanstack/react-query";
import { Link, useNavigate, useParams } from "@tanstack/react-router";
import { useState } from "react";
import { toast } from "sonner";
import { asks, under } from "../../api/asking";
import { client, ok, type Schemas } from "../../api/client";
import { useDraft } from "../../parts/draft";
import { Choice, TextField } from "../../parts/Form";
import { capital, plural } from "../../parts/format";
import { useMay } from "../../parts/me";
import { asOrganisation, OrganisationChoice } from "../../parts/Organisation";
import { Problem, Waiting } from "../../parts/Problem";
import { Schedule } from "../../parts/Schedule";
import { SettingField, usual } from "../../parts/SettingField";
import { t, word } from "../../words";
import { DirectoryPick } from "./DirectoryPick";
import { type Fields, MappingTable } from "./MappingTable";
import { Syncs, TestResult } from "./SourceResults";

type Source = Schemas["SourceOut"];
type Sync = Schemas["SyncOut"];
type Test = Schemas["TestOut"];
type Choices = Schemas["ChoicesOut"];
type Kind = Schemas["SourceKindOut"];

const GONE: [string, string][] = [
  ["keep", t("keep them as they are")],
  ["mark", t("mark them as missing")],
  ["retire", t("retire them after some days")],
];
/** One other system: how it is asked, a test that stores nothing, and what its syncs brought. */
export function SourcePage() {
  const { source: text } = useParams({ strict: false }) as { source: string };
  const fresh = text === "new";
  const page = useQuery({
    ...asks("/api/sources/{number}", { params: { path: { number: Number(text) } } }),
    enabled: !fresh,
    refetchInterval: (q) =>
      q.state.data?.syncs.some((s) => s.state === "waiting" || s.state === "running") ? 700 : false,
  });
  const choices = useQuery({
    ...asks("/api/sources/choices"),
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
  if (!choices.data || (!fresh && !page.data)) return <Waiting what={t("Opening the source …")} />;
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
  const {
    v: values,
    set,
    field,
    attempt,
    wrong,
    rest,
    busy,
  } = useDraft({
    name: source?.name ?? "",
    kind: source?.kind ?? "directory",
    credential: source?.credential ? String(source.credential) : "",
    route: source?.route ?? "direct",
    schedule: source?.schedule ?? "",
    gone: source?.gone ?? "keep",
    gone_days: String(source?.gone_days ?? 30),
    loss_share: String(source?.loss_share ?? 20),
    organisation: source?.organisation ? String(source.organisation) : "",
    settings: (source?.settings ?? {}) as Record<string, unknown>,
  });
  const { settings } = values;
  const [test, setTest] = useState<Test | null>(null);
  const queries = useQueryClient();
  const navigate = useNavigate();
  const mayPlan = useMay("plan");
  const maySweep = useMay("sweep");
  const credentials = useQuery(asks("/api/credentials"));
  const kind = choices.kinds.find((k) => k.name === values.kind) as Kind;
  const body = () => ({
    ...values,
    credential: values.credential ? Number(values.credential) : null,
    gone_days: Number(values.gone_days) || 30,
    loss_share: Number(values.loss_share),
    organisation: asOrganisation(values.organisation),
    take: source?.take ?? [],
    version: source?.version ?? 0,
  });
  const tryIt = () =>
    attempt(async () => setTest(await ok(client.POST("/api/sources/test", { body: body() }))));
  const save = () =>
    attempt(async () => {
      const saved = source
        ? await ok(
            client.PUT("/api/sources/{number}", { params: { path: { number: source.id } }, body: body() }),
          )
        : await ok(client.POST("/api/sources", { body: body() }));
      toast.success(t("“{{name}}” is saved.", { name: values.name }));
      await queries.invalidateQueries(under("sources"));
      queries.setQueryData(
        asks("/api/sources/{number}", { params: { path: { number: saved.source.id } } }).queryKey,
        saved,
      );
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
      await queries.invalidateQueries(under("sources"));
    });
  const offered = credentials.data?.filter((c) => c.protocol === kind.protocol) ?? [];
  return (
    <div className="mx-auto w-full max-w-[1440px] px-4 pb-10">
      <div className="flex flex-wrap items-center gap-3 py-3.5">
        <h1>{source ? source.name : t("New source")}</h1>
        <span className="dim text-[13.5px]">
          {source
            ? t("{{kind}} · knows {{devices}}{{which}}", {
                kind: capital(word(source.kind)),
                devices: plural(source.devices, "device"),
                which: source.missing ? t(" · {{missing}} no longer there", { missing: source.missing }) : "",
              })
            : t("Another system that knows devices or people.")}
        </span>
        <span className="flex-1" />
        <Link to="/discovery" search={{}} className="btn btn-sm">
          {t("Discovery")}
        </Link>
        {mayPlan && (
          <>
            <button type="button" className="btn btn-sm" disabled={busy} onClick={tryIt}>
              {t("Test")}
            </button>
            <button type="button" className="btn btn-sm" disabled={busy} onClick={save}>
              {t("Save")}
            </button>
          </>
        )}
        {source && maySweep && (
          <button type="button" className="btn btn-primary btn-sm" disabled={busy} onClick={sync}>
            {t("Sync now")}
          </button>
        )}
      </div>
      {rest}
      <div className="grid items-start gap-3 lg:grid-cols-[1fr_1fr]">
        <section className="sheet px-4 py-3" aria-label={t("How it is asked")}>
          <div className="grid gap-x-4 sm:grid-cols-2">
            <TextField label={t("Name")} required {...field("name")} />
            <Choice
              label={t("Kind")}
              value={values.kind}
              set={(name) => {
                set({ kind: name, credential: "" });
                set({ settings: usual(choices.kinds.find((k) => k.name === name)?.form) });
              }}
              options={choices.kinds.map((k) => [k.name, k.name] as const)}
              wrong={wrong("kind")}
              hint={capital(`${kind.text}.`)}
            />
            {kind.protocol !== "" && (
              <Choice
                label={t("Credential")}
                {...field("credential")}
                options={[
                  ["", kind.must ? t("choose one") : "none"],
                  ...offered.map((c) => [String(c.id), c.name] as const),
                ]}
              />
            )}
            <Choice
              label={t("Route")}
              {...field("route")}
              options={[
                ["direct", "direct"],
                ["lab", "lab"],
              ]}
            />
            {kind.mapped && (
              <Choice
                label={t("Start from a mapping")}
                value=""
                set={(name) => name && set({ settings: kind.prepared[name] ?? {} })}
                options={[["", t("as it stands")], ...Object.keys(kind.prepared).map((n) => [n, n] as const)]}
              />
            )}
            {kind.form.map((one) => (
              <SettingField
                key={one.name}
                setting={one}
                value={settings[one.name]}
                set={(value) => set({ settings: { ...settings, [one.name]: value } })}
                wrong={wrong(`settings.${one.name}`)}
              />
            ))}
            <OrganisationChoice label={t("Its devices belong to")} {...field("organisation")} />
            <Schedule
              label={t("Syncs")}
              none={t("by hand")}
              rule={values.schedule}
              set={(schedule) => set({ schedule })}
              wrong={wrong("schedule")}
              hint={source?.schedule_words}
            />
            <Choice label={t("Devices it no longer knows")} {...field("gone")} options={GONE} />
            {values.gone === "retire" && (
              <TextField label={t("After days")} type="number" {...field("gone_days")} />
            )}
            <TextField
              label={t("Ask before more than so many percent count as gone")}
              type="number"
              {...field("loss_share")}
            />
          </div>
          {kind.mapped && (
            <MappingTable
              targets={choices.targets}
              units={choices.units}
              fields={(settings.fields ?? {}) as Fields}
              set={(fields) => set({ settings: { ...settings, fields } })}
              wrong={wrong("settings.fields")}
            />
          )}
        </section>
        <div className="grid min-w-0 gap-3">
          {test && <TestResult test={test} />}
          {source && kind.name === "directory" && <DirectoryPick source={source} />}
          {source && <Syncs syncs={syncs} source={source} />}
          {!test && !source && (
            <p className="sheet dim px-4 py-5 text-[13px]">
              {t("Describe how it is asked, then test: a sample is shown and nothing is stored.")}
            </p>
          )}
        </div>
      </div>
    </div>
  );
}
