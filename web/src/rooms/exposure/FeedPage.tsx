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
import { Problem, Waiting } from "../../parts/Problem";
import { Schedule } from "../../parts/Schedule";
import { SettingField, usual } from "../../parts/SettingField";
import { t, word } from "../../words";
import { Runs } from "./Runs";

type Feed = Schemas["AdvisoryFeed"];
type Test = Schemas["FeedTestOut"];
type Kind = Schemas["FeedKindOut"];

/** One feed: how it is fetched, a test that keeps nothing, and what its readings brought. */
export function FeedPage() {
  const { feed: text } = useParams({ strict: false }) as { feed: string };
  const fresh = text === "new";
  const page = useQuery({
    ...asks("/api/feeds/{number}", { params: { path: { number: Number(text) } } }),
    enabled: !fresh,
    refetchInterval: (q) =>
      q.state.data?.runs.some((r) => r.state === "waiting" || r.state === "running") ? 1000 : false,
  });
  const choices = useQuery({ ...asks("/api/feeds/choices"), staleTime: Number.POSITIVE_INFINITY });
  const error = page.error ?? choices.error;
  if (error)
    return (
      <div className="p-6">
        <Problem error={error} />
      </div>
    );
  if (!choices.data || (!fresh && !page.data)) return <Waiting what={t("Opening the feed …")} />;
  return (
    <Opened
      key={`${text}-${page.data?.feed.version ?? 0}`}
      feed={page.data?.feed ?? null}
      runs={page.data?.runs ?? []}
      kinds={choices.data}
    />
  );
}

interface OpenedProps {
  feed: Feed | null;
  runs: Schemas["FeedRunOut"][];
  kinds: Kind[];
}

function Opened({ feed, runs, kinds }: OpenedProps) {
  const { v, set, field, attempt, wrong, rest, busy } = useDraft({
    name: feed?.name ?? "",
    kind: feed?.kind ?? kinds[0]?.name ?? "",
    route: feed?.route ?? "direct",
    schedule: feed?.schedule ?? "",
    loss_share: String(feed?.loss_share ?? 20),
    settings: (feed?.settings ?? {}) as Record<string, unknown>,
  });
  const [test, setTest] = useState<Test | null>(null);
  const queries = useQueryClient();
  const navigate = useNavigate();
  const mayPlan = useMay("plan");
  const mayRead = useMay("sweep");
  const byHand = feed?.kind === "hand";
  const kind = kinds.find((k) => k.name === v.kind);
  const body = () => ({ ...v, loss_share: Number(v.loss_share), version: feed?.version ?? 0 });
  const tryIt = () =>
    attempt(async () => setTest(await ok(client.POST("/api/feeds/test", { body: body() }))));
  const save = () =>
    attempt(async () => {
      const saved = feed
        ? await ok(client.PUT("/api/feeds/{number}", { params: { path: { number: feed.id } }, body: body() }))
        : await ok(client.POST("/api/feeds", { body: body() }));
      toast.success(t("“{{name}}” is saved.", { name: v.name }));
      await queries.invalidateQueries(under("feeds"));
      if (!feed)
        await navigate({ to: "/exposure/feeds/$feed", params: { feed: String(saved.feed.id) }, search: {} });
    });
  const read = () =>
    attempt(async () => {
      if (!feed) return;
      await ok(client.POST("/api/feeds/{number}/runs", { params: { path: { number: feed.id } } }));
      await queries.invalidateQueries(under("feeds"));
    });
  return (
    <div className="mx-auto w-full max-w-[1280px] px-4 pb-10">
      <p className="dim pt-3 text-[13px]">
        <Link to="/exposure/feeds" search={{}} className="link-quiet">
          {t("Feeds")}
        </Link>
      </p>
      <div className="flex flex-wrap items-center gap-3 pb-3">
        <h1>{feed ? feed.name : t("New feed")}</h1>
        <span className="dim text-[13.5px]">
          {feed
            ? `${byHand ? t("What people and the command line bring") : capital(word(feed.kind))} · ${plural(feed.documents, "document")}`
            : t("A source of advisories in an open format; which one is found out by reading.")}
        </span>
        <span className="flex-1" />
        {mayPlan && !byHand && (
          <>
            <button type="button" className="btn btn-sm" disabled={busy} onClick={tryIt}>
              {t("Test")}
            </button>
            <button type="button" className="btn btn-sm" disabled={busy} onClick={save}>
              {t("Save")}
            </button>
          </>
        )}
        {feed && mayRead && !byHand && (
          <button type="button" className="btn btn-primary btn-sm" disabled={busy} onClick={read}>
            {t("Read now")}
          </button>
        )}
      </div>
      {rest}
      <div className={byHand ? "" : "grid items-start gap-3 lg:grid-cols-2"}>
        {!byHand && (
          <section className="sheet px-4 py-3" aria-label={t("How it is fetched")}>
            <div className="grid gap-x-4 sm:grid-cols-2">
              <TextField label={t("Name")} required {...field("name")} />
              <Choice
                label={t("Kind")}
                value={v.kind}
                set={(name) => set({ kind: name, settings: usual(kinds.find((k) => k.name === name)?.form) })}
                options={kinds.map((k) => [k.name, k.name] as const)}
                wrong={wrong("kind")}
                hint={kind && capital(`${kind.text}.`)}
              />
              {kind?.form.map((one) => (
                <SettingField
                  key={one.name}
                  setting={one}
                  value={v.settings[one.name]}
                  set={(value) => set({ settings: { ...v.settings, [one.name]: value } })}
                  wrong={wrong(`settings.${one.name}`)}
                />
              ))}
              <Choice
                label={t("Route")}
                {...field("route")}
                options={[
                  ["direct", "direct"],
                  ["lab", "lab"],
                ]}
              />
              <Schedule
                label={t("Read")}
                none={t("by hand")}
                rule={v.schedule}
                set={(schedule) => set({ schedule })}
                wrong={wrong("schedule")}
                hint={feed?.schedule_words}
              />
              <TextField
                label={t("Ask before more than so many percent are withdrawn at once")}
                type="number"
                {...field("loss_share")}
              />
            </div>
          </section>
        )}
        <div className="grid min-w-0 gap-3">
          {test && <Tested test={test} />}
          {feed && <Runs runs={runs} />}
          {!test && !feed && (
            <p className="sheet dim px-4 py-5 text-[13px]">
              {t("Describe where it lies, then test: a sample is shown and nothing is kept.")}
            </p>
          )}
        </div>
      </div>
    </div>
  );
}

/** What a feed would bring: the first documents, and what was refused. */
function Tested({ test }: { test: Test }) {
  return (
    <section className="sheet min-w-0 overflow-hidden" aria-labelledby="feed-test-title">
      <h2 id="feed-test-title" className="dim px-3.5 pt-2.5 pb-1.5 text-[12px] font-semibold">
        {t("What it would bring")}
      </h2>
      {test.problem && (
        <p role="alert" className="px-3.5 pb-2 text-[13px]">
          <b className="text-error">{test.problem}</b> <span className="dim">{test.remedy}</span>
        </p>
      )}
      <p className="px-3.5 pb-2 text-[13px]" role="status">
        {t("{{documents}} looked at in {{took_ms}} ms; nothing was kept.", {
          documents: plural(test.read, "document"),
          took_ms: test.took_ms,
        })}
      </p>
      <ul className="text-[13px]">
        {test.sample.map((s) => (
          <li key={`${s.place}${s.name}`} className="border-t border-base-300 px-3.5 py-1.5">
            <span className="tag">{s.format}</span> <span className="mono">{s.name}</span>{" "}
            <span className="dim">
              {s.title} · {plural(s.statements, "statement")}
            </span>
          </li>
        ))}
        {test.faults.map((f) => (
          <li key={`${f.place}${f.rule}`} className="border-t border-base-300 px-3.5 py-1.5">
            <span className="tag bad">{t("refused")}</span> <span className="mono break-all">{f.place}</span>{" "}
            <span className="dim">{f.rule}</span>
          </li>
        ))}
      </ul>
    </section>
  );
}
