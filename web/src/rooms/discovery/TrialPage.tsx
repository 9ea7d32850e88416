import { useQuery, useQueryClient } from "@tanstack/react-query";
import { Link, useNavigate, useParams } from "@tanstack/react-router";
import { useState } from "react";
import { asks, under } from "../../api/asking";
import { client, ok, type Schemas } from "../../api/client";
import { useDraft } from "../../parts/draft";
import { TextField } from "../../parts/Form";
import { plural } from "../../parts/format";
import { useMay } from "../../parts/me";
import { Problem, Unanswered } from "../../parts/Problem";
import { t } from "../../words";
import { PROTOCOLS, type Protocol } from "./protocols";

type Trial = Schemas["TrialOut"];
type Step = Schemas["StepOut"];

const MARKS: Record<string, [string, string]> = {
  passed: ["bg-success text-success-content", "M5 10.5 8.5 14 15 6.5"],
  noted: ["bg-warning text-warning-content", "M10 5v6.5M10 14.4v.2"],
  failed: ["bg-error text-error-content", "M6 6l8 8M14 6l-8 8"],
};
const NEUTRAL: [string, string] = ["bg-base-300 text-base-content", "M6 10h8"];

export function useTrial(id: number) {
  return useQuery({
    ...asks("/api/trials/{number}", { params: { path: { number: id } } }),
    refetchInterval: (q) => (q.state.data?.state === "done" ? false : 300),
  });
}

/** One credential tried at one address: eight steps, each with its verdict, and the mending beside it. */
export function TrialPage() {
  const { trial: text } = useParams({ strict: false }) as { trial: string };
  const trial = useTrial(Number(text));
  const navigate = useNavigate();
  const [error, setError] = useState<unknown>(null);
  if (trial.error || !trial.data) return <Unanswered asked={trial} what={t("Opening the trial …")} />;
  const held = trial.data;
  const again = async () => {
    try {
      const next = await ok(
        client.POST("/api/trials", {
          body: { credential: held.credential, address: held.address, route: held.route },
        }),
      );
      await navigate({ to: "/discovery/trials/$trial", params: { trial: String(next.id) }, search: {} });
    } catch (refused) {
      setError(refused);
    }
  };
  const reached = held.steps.filter((s) => s.verdict !== "not reached").length;
  const failed = held.steps.some((s) => s.verdict === "failed");
  const over = held.state === "done";
  return (
    <div className="mx-auto w-full max-w-[1440px] px-4 pb-10">
      <h1 className="pt-3.5">
        {t("Trying “{{name}}” on", { name: held.name })}{" "}
        <span className="mono text-[17px]">{held.address}</span>
      </h1>
      <p className="dim py-1 text-[13.5px]" role="status">
        {t("from {{which}} · {{which2}}", {
          which: held.outpost ? t("the outpost “{{outpost}}”", { outpost: held.outpost }) : t("this server"),
          which2: over
            ? failed
              ? t("{{reached}} of 8 steps done when it stopped", { reached })
              : t("all steps done: it works")
            : t("{{steps}} of 8 steps done", { steps: held.steps.length }),
        })}
        {over && (
          <>
            {" · "}
            <button type="button" className="link-quiet font-semibold" onClick={again}>
              {t("try again")}
            </button>
            {" · "}
            <Link to="/discovery" search={{}} className="link-quiet font-semibold">
              {t("all credentials")}
            </Link>
          </>
        )}
      </p>
      {error !== null && <Problem error={error} />}
      <div className="mt-2 grid items-start gap-3 lg:grid-cols-[2.1fr_1fr]">
        <ol className="sheet px-4 py-1" aria-label={t("Steps")}>
          {held.steps.map((s) => (
            <StepRow key={s.step} step={s} />
          ))}
          {!over && (
            <li className="dim flex items-center gap-2 py-3 text-[13px]">
              <span className="loading loading-dots loading-sm" /> {t("trying …")}
            </li>
          )}
        </ol>
        <div className="grid gap-3">
          {over && held.steps.some((s) => s.code === "another-key" || s.code === "first-key") && (
            <AcceptKey trial={held} again={again} />
          )}
          {over && failed && <Renew trial={held} again={again} />}
          <section className="sheet px-4 py-3" aria-labelledby="used-title">
            <h2 id="used-title" className="dim mb-2 text-[12px] font-semibold">
              {t("Where this credential is used")}
            </h2>
            <dl className="grid grid-cols-[1fr_auto] gap-y-1.5 text-[13.5px]">
              <dt>{t("Devices read with it, last runs")}</dt>
              <dd className="num">{held.read_with}</dd>
              <dt>{t("refused it in those runs")}</dt>
              <dd className="num">
                {held.refused > 0 ? <span className="tag bad">{held.refused}</span> : 0}
              </dd>
              <dt>{t("Sweeps")}</dt>
              <dd className="text-right">{held.used_by.join(", ") || t("none")}</dd>
              <dt>{t("Places")}</dt>
              <dd className="text-right">{held.places.join(", ") || t("all")}</dd>
            </dl>
            {held.refusals > 0 && (
              <p className="dim mt-2 text-[12.5px]">
                {t(
                  "The directory has refused this account {{times}} running; Tarn stops at three, so that the account is not locked.",
                  { times: plural(held.refusals, "time") },
                )}
              </p>
            )}
          </section>
        </div>
      </div>
    </div>
  );
}

function StepRow({ step }: { step: Step }) {
  const [tone, path] = MARKS[step.verdict] ?? NEUTRAL;
  return (
    <li className="grid grid-cols-[24px_1fr_auto] gap-x-3.5 gap-y-1 border-b border-base-300 py-3 last:border-0 md:grid-cols-[24px_200px_1fr_auto]">
      <span
        role="img"
        className={`grid size-[22px] place-items-center rounded-full ${tone}`}
        aria-label={step.verdict}
      >
        <svg viewBox="0 0 20 20" width="16" height="16" aria-hidden="true">
          <path d={path} fill="none" stroke="currentColor" strokeWidth="2.2" strokeLinecap="round" />
        </svg>
      </span>
      <h3 className="text-[14px] font-semibold">{step.title}</h3>
      <div className="col-span-3 min-w-0 text-[13.5px] break-words md:col-span-1 md:col-start-3">
        <p className={step.verdict === "not reached" ? "dim" : ""}>{step.says}</p>
        {step.advice && <p className="dim">{step.advice}</p>}
      </div>
      <span className="faint col-start-3 row-start-1 text-right text-[13px] tabular-nums md:col-start-4">
        {step.verdict === "not reached" || step.verdict === "not applicable"
          ? ""
          : t("{{took_ms}} ms", { took_ms: step.took_ms })}
      </span>
    </li>
  );
}

/** What to do where the machine presents another host key: look, then accept it here. */
function AcceptKey({ trial, again }: { trial: Trial; again: () => Promise<void> }) {
  const { attempt, rest } = useDraft({});
  const mayKeys = useMay("credentials");
  if (!mayKeys) return null;
  const first = trial.steps.some((s) => s.code === "first-key");
  const accept = async () => {
    await attempt(async () => {
      await ok(client.POST("/api/trials/{number}/key", { params: { path: { number: trial.id } } }));
      await again();
    });
  };
  return (
    <section className="sheet px-4 py-3" aria-labelledby="key-title">
      <h2 id="key-title" className="dim mb-2 text-[12px] font-semibold">
        {first ? t("A key met for the first time") : t("Another key than before")}
      </h2>
      <p className="text-[13.5px]">
        {trial.protocol === "ssh" ? (
          <>
            {t("Compare it with the machine itself:")} <span className="mono">{t("ssh-keygen -lf")}</span>{" "}
            {t("on its public host key prints the same fingerprint.")}
          </>
        ) : (
          t(
            "Compare it with the machine itself: it is the SHA-256 of the public key of the certificate in its service, in base64.",
          )
        )}{" "}
        {first
          ? ""
          : t("Until it is accepted no password is sent to {{address}}, by sweeps neither.", {
              address: trial.address,
            })}
      </p>
      {rest}
      <button type="button" className="btn btn-primary mt-2" onClick={accept}>
        {t("Accept this key and try again")}
      </button>
    </section>
  );
}

function Renew({ trial, again }: { trial: Trial; again: () => Promise<void> }) {
  const { submit, wrong, rest } = useDraft({});
  const mayKeys = useMay("credentials");
  const queries = useQueryClient();
  const secrets = PROTOCOLS[trial.protocol as Protocol].secrets.filter(([key]) => key !== "passphrase");
  const [values, setValues] = useState<Record<string, string>>({});
  if (!mayKeys) return null;
  const keep = submit(async () => {
    const given = Object.fromEntries(Object.entries(values).filter(([, v]) => v !== ""));

    await ok(
      client.POST("/api/credentials/{number}/secret", {
        params: { path: { number: trial.credential } },
        body: { secrets: given },
      }),
    );
    await queries.invalidateQueries(under("credentials"));
    await again();
  });
  return (
    <form className="sheet px-4 py-3" onSubmit={keep} autoComplete="off">
      <h2 className="dim mb-2 text-[12px] font-semibold">{t("Renew the secret")}</h2>
      {secrets.map(([key, label]) => (
        <TextField
          key={key}
          label={label}
          type="password"
          rows={key === "key" ? 2 : undefined}
          value={values[key] ?? ""}
          set={(value) => setValues({ ...values, [key]: value })}
          wrong={wrong(key)}
        />
      ))}
      {rest}
      <button type="submit" className="btn btn-primary">
        {t("Keep and try again")}
      </button>
      <p className="dim mt-2 text-[12.5px]">
        {t("Kept encrypted; nobody can read it back, Tarn's administrators included.")}
      </p>
    </form>
  );
}
