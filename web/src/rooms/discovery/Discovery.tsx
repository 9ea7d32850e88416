import { useQuery, useQueryClient } from "@tanstack/react-query";
import { Link, useNavigate } from "@tanstack/react-router";
import { useState } from "react";
import { toast } from "sonner";
import { asks, under } from "../../api/asking";
import { client, ok, type Schemas } from "../../api/client";
import { useDial } from "../../parts/dial";
import { agoWords, count, iso, moment, plural } from "../../parts/format";
import { useMay, useMe } from "../../parts/me";
import { Whose } from "../../parts/Organisation";
import { Empty, Problem, Waiting } from "../../parts/Problem";
import { sayRefused } from "../../parts/refusal";
import { Sheet, useDone } from "../../parts/Sheet";
import { Table } from "../../parts/table/Table";
import { t, word } from "../../words";
import { CredentialForm } from "./CredentialForm";
import { Hooks } from "./Hooks";
import { NetworkForm } from "./NetworkForm";
import { Outposts } from "./Outposts";
import { protocolLabel } from "./protocols";
import { Reporters } from "./Reporters";
import { SourcesTable } from "./SourcesTable";
import { SweepForm } from "./SweepForm";
import { TrialForm } from "./TrialForm";

type Sweep = Schemas["SweepOut"];
type Credential = Schemas["CredentialOut"];

export function Discovery() {
  const sweeps = useQuery({
    ...asks("/api/sweeps"),
    refetchInterval: (q) => (q.state.data?.some((s) => s.last_run && !s.last_run.ended_at) ? 2000 : false),
  });
  const credentials = useQuery(asks("/api/credentials"));
  const networks = useQuery(asks("/api/networks"));
  const [sweepForm, setSweepForm] = useState<Sweep | "new" | null>(null);
  const [credentialForm, setCredentialForm] = useState<Credential | "new" | null>(null);
  const [tried, setTried] = useState<Credential | null>(null);
  const [networkForm, setNetworkForm] = useState<Schemas["NetworkOut"] | "new" | null>(null);
  const { past } = useDial();
  const mayPlan = useMay("plan") && !past;
  const mayTry = useMay("sweep") && !past;
  const limited = (useMe().data?.limits.length ?? 0) > 0;
  const mayKeys = useMay("credentials") && !past;
  const done = useDone("credentials");
  const tryEverywhere = (number: number) =>
    done(async () => {
      const made = await ok(client.POST("/api/credentials/{number}/tries", { params: { path: { number } } }));
      toast.success(
        t("It is tried on {{devices}}; what comes of it is a finding of our own.", {
          devices: plural(made.devices, "device"),
        }),
      );
    });
  if (sweeps.error) {
    return (
      <div className="p-6">
        <Problem error={sweeps.error} retry={() => void sweeps.refetch()} />
      </div>
    );
  }
  return (
    <div className="mx-auto w-full max-w-[1440px] px-4 pb-10">
      <div className="flex flex-wrap items-center gap-3 py-3.5">
        <h1>{t("Discovery")}</h1>
        <span className="dim text-[13.5px]">{t("Where to look, with what, and what came of it.")}</span>
        <span className="flex-1" />
        <Link to="/discovery/intake" search={{}} className="btn">
          {t("Intake")}
        </Link>
        {mayPlan && (
          <button type="button" className="btn btn-primary" onClick={() => setSweepForm("new")}>
            {t("New sweep")}
          </button>
        )}
      </div>
      <section aria-label={t("Sweeps")} className="grid gap-3">
        {sweeps.data?.map((s) => (
          <SweepCard
            key={s.id}
            sweep={s}
            credentials={credentials.data ?? []}
            edit={mayPlan ? () => setSweepForm(s) : undefined}
          />
        ))}
        {!sweeps.data && <Waiting what={t("Reading the sweeps …")} />}
        {sweeps.data?.length === 0 && (
          <div className="sheet">
            <Empty title={t("No sweep yet.")}>
              {t(
                "A sweep looks at ranges of addresses and reads what answers. Make one, with the credentials it may use.",
              )}
            </Empty>
          </div>
        )}
      </section>
      <SourcesTable mayPlan={mayPlan} />
      <Outposts networks={networks.data ?? []} mayPlan={mayPlan} mayKeys={mayKeys} />
      {mayKeys && <Reporters />}
      {mayKeys && <Hooks />}
      <div className="mt-3 grid items-start gap-3 2xl:grid-cols-2">
        <Sheet
          id="credentials"
          title={t("Credentials")}
          className=""
          actions={
            mayKeys && (
              <button type="button" className="btn btn-sm" onClick={() => setCredentialForm("new")}>
                {t("New credential")}
              </button>
            )
          }
        >
          <Table
            list="credentials"
            label={t("Credentials")}
            rows={credentials.data ?? []}
            rowKey={(c) => c.id}
            columns={[
              {
                key: "name",
                label: t("Name"),
                of: (c) => c.name,
                cell: (c) => (
                  <>
                    <span className="mono">{c.name}</span> <Whose id={c.organisation} />
                  </>
                ),
              },
              {
                key: "protocol",
                label: t("Protocol"),
                of: (c) => c.protocol,
                cell: (c) => (
                  <>
                    {protocolLabel(c.protocol)}
                    {c.known_to_all && <span className="tag ml-1.5">{t("only tried")}</span>}
                    {c.refusals >= 3 && <span className="tag bad ml-1.5">{t("held back")}</span>}
                  </>
                ),
              },
              {
                key: "signs_in_as",
                label: t("Signs in as"),
                of: (c) => c.user,
                cell: (c) =>
                  c.user || (
                    <span className="faint">{c.protocol === "http" ? t("token") : t("community")}</span>
                  ),
                mono: true,
              },
              { key: "port", label: t("Port"), of: (c) => c.port, num: true },
              {
                key: "used_by",
                label: t("Used by"),
                of: (c) => c.used_by.length,
                cell: (c) => (c.used_by.length ? plural(c.used_by.length, "sweep") : t("no sweep")),
                className: "dim",
              },
              {
                key: "do",
                label: "",
                cell: (c) => (
                  <>
                    {mayKeys && c.known_to_all && (
                      <button
                        type="button"
                        className="link-quiet mr-3 font-semibold"
                        onClick={() => void tryEverywhere(c.id)}
                      >
                        {t("Try everywhere")}
                      </button>
                    )}
                    {mayTry && c.protocol !== "http" && c.protocol !== "cloud" && (
                      <button
                        type="button"
                        className="link-quiet mr-3 font-semibold"
                        onClick={() => setTried(c)}
                      >
                        {t("Try")}
                      </button>
                    )}
                    {mayKeys && (
                      <button
                        type="button"
                        className="link-quiet font-semibold"
                        onClick={() => setCredentialForm(c)}
                      >
                        {t("Change")}
                      </button>
                    )}
                  </>
                ),
                className: "text-right whitespace-nowrap",
              },
            ]}
          />
          {credentials.data?.length === 0 && (
            <p className="dim px-3.5 py-3 text-[13px]">
              {t("None yet. Without one a sweep sees only which ports answer.")}
            </p>
          )}
          <p className="faint px-3.5 py-2 text-[12px]">
            {t("Secrets are encrypted at rest and are never shown again.")}
          </p>
        </Sheet>
        <Sheet
          id="networks"
          title={t("Networks")}
          className=""
          actions={
            mayPlan &&
            !limited && (
              <button type="button" className="btn btn-sm" onClick={() => setNetworkForm("new")}>
                {t("New network")}
              </button>
            )
          }
        >
          <Table
            list="networks"
            label={t("Networks")}
            rows={networks.data ?? []}
            rowKey={(n) => n.id}
            columns={[
              { key: "range", label: t("Range"), of: (n) => n.range, mono: true },
              {
                key: "name",
                label: t("Name"),
                of: (n) => n.name,
                cell: (n) => (
                  <>
                    {n.name} <Whose id={n.organisation} />
                  </>
                ),
              },
              { key: "place", label: t("Place"), of: (n) => n.place },
              {
                key: "maintenance",
                label: t("Maintenance"),
                of: (n) => n.quiet && n.quiet_words,
                cell: (n) => n.quiet && `${n.quiet_words}, ${plural(n.quiet_minutes, "minute")}`,
                className: "dim",
              },
              {
                key: "at_once",
                label: t("At once"),
                of: (n) => (n.never_probe ? t("never") : n.at_once),
                cell: (n) => (
                  <>
                    {n.never_probe ? <span className="tag bad">{t("never probe")}</span> : n.at_once}
                    {n.outposts.length > 0 && <span className="tag ml-1.5">{t("by outpost")}</span>}
                  </>
                ),
                num: true,
              },
              {
                key: "do",
                label: "",
                cell: (n) =>
                  mayPlan &&
                  !limited && (
                    <button
                      type="button"
                      className="link-quiet font-semibold"
                      aria-label={t("Change {{range}}", { range: n.range })}
                      onClick={() => setNetworkForm(n)}
                    >
                      {t("Change")}
                    </button>
                  ),
                className: "text-right",
              },
            ]}
          />
        </Sheet>
      </div>
      {tried && (
        <TrialForm
          credential={tried}
          route={sweeps.data?.[0]?.route ?? "direct"}
          close={() => setTried(null)}
        />
      )}
      {networkForm !== null && (
        <NetworkForm
          network={networkForm === "new" ? null : networkForm}
          close={() => setNetworkForm(null)}
        />
      )}
      {sweepForm !== null && (
        <SweepForm
          sweep={sweepForm === "new" ? null : sweepForm}
          credentials={credentials.data ?? []}
          close={() => setSweepForm(null)}
        />
      )}
      {credentialForm !== null && (
        <CredentialForm
          credential={credentialForm === "new" ? null : credentialForm}
          close={() => setCredentialForm(null)}
        />
      )}
    </div>
  );
}

function SweepCard({
  sweep,
  credentials,
  edit,
}: {
  sweep: Sweep;
  credentials: Credential[];
  edit: (() => void) | undefined;
}) {
  const navigate = useNavigate();
  const queries = useQueryClient();
  const maySweep = useMay("sweep");
  const { past } = useDial();
  const last = sweep.last_run;
  const live = last !== null && !["done", "stopped", "failed"].includes(last.state);
  const start = async () => {
    try {
      const run = await ok(
        client.POST("/api/sweeps/{number}/runs", { params: { path: { number: sweep.id } } }),
      );
      await queries.invalidateQueries(under("runs"));
      await navigate({ to: "/discovery/runs/$run", params: { run: String(run.id) }, search: {} });
    } catch (error) {
      sayRefused(error, t("It could not be started."));
    }
  };
  const names = sweep.credentials.map((id) => credentials.find((c) => c.id === id)?.name).filter(Boolean);
  return (
    <article className="sheet grid items-center gap-x-5 gap-y-2 px-4 py-3 md:grid-cols-[1.3fr_1.2fr_1fr_auto]">
      <div>
        <h2 className="text-[15px] font-semibold">
          {sweep.name} <Whose id={sweep.organisation} />
        </h2>
        <p className="mono dim mt-0.5">{sweep.ranges.join(", ")}</p>
        {sweep.exclusions.length > 0 && (
          <p className="faint text-[12.5px]">
            {t("without")} <span className="mono">{sweep.exclusions.join(", ")}</span>
          </p>
        )}
      </div>
      <p className="dim text-[13px]">
        {names.length ? (
          <>
            {t("with")} <span className="mono">{names.join(", ")}</span>
          </>
        ) : (
          t("without a credential")
        )}
        <br />
        {t("{{schedule_words}}{{which}} · route {{route}}", {
          schedule_words: sweep.schedule_words || t("by hand"),
          which: sweep.next_at ? t(", next {{next_at}}", { next_at: moment(iso(sweep.next_at)) }) : "",
          route: sweep.route,
        })}
      </p>
      <p className="text-[13px]">
        {last ? (
          <>
            <Link
              to="/discovery/runs/$run"
              params={{ run: String(last.id) }}
              search={{}}
              className="link-quiet font-semibold"
            >
              {live
                ? t("{{state}}: {{done}} of {{total}}", {
                    state: last.state,
                    done: count(last.done),
                    total: count(last.total),
                  })
                : t("Last run {{state}}", { state: word(last.state) })}
            </Link>
            <br />
            <span className="dim">
              {live
                ? t("under way")
                : t("{{ended_at}} · {{total}} answered of {{total2}}", {
                    ended_at: agoWords(iso(last.ended_at ?? last.made_at)),
                    total: count(
                      last.total - (last.outcomes["no answer"] ?? 0) - (last.outcomes.waiting ?? 0),
                    ),
                    total2: count(last.total),
                  })}
            </span>
          </>
        ) : (
          <span className="dim">{t("never run from here")}</span>
        )}
      </p>
      <div className="flex gap-2">
        {edit && (
          <button type="button" className="btn btn-sm" onClick={edit}>
            {t("Change")}
          </button>
        )}
        {maySweep && !past && (
          <button type="button" className="btn btn-primary btn-sm" disabled={live} onClick={start}>
            {t("Start now")}
          </button>
        )}
      </div>
    </article>
  );
}
