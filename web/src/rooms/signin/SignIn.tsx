import { useQuery, useQueryClient } from "@tanstack/react-query";
import { useNavigate, useSearch } from "@tanstack/react-router";
import { useState } from "react";
import { account, asProblem, type Flow, usePasskey } from "../../api/account";
import { asks } from "../../api/asking";
import { csrf } from "../../api/client";
import { TextField } from "../../parts/Form";
import { speakTo, whoIsIn } from "../../parts/me";
import { Problem } from "../../parts/Problem";
import { t } from "../../words";
import { FirstAccount } from "./FirstAccount";
import { Forgotten, NewPassword } from "./Forgotten";

/** The way in: a name and a password, a second factor where there is one, a passkey, or the company's own sign-in. */
export function SignIn() {
  const { to, reset, error } = useSearch({ strict: false }) as {
    to?: string;
    reset?: string;
    error?: string;
  };
  const [pending, setPending] = useState<Flow | null>(null);
  const [step, setStep] = useState<"name" | "forgotten" | "reset">(reset ? "reset" : "name");
  const queries = useQueryClient();
  const navigate = useNavigate();
  const first = useQuery(asks("/api/first"));
  const enter = async () => {
    queries.clear();
    const me = await whoIsIn();
    queries.setQueryData(asks("/api/me").queryKey, me);
    // Only a path of our own is gone to, whatever the address bar says.
    await navigate({ href: to?.startsWith("/") && !to.startsWith("//") ? to : "/today" });
    speakTo(me);
  };
  const goOn = async (answer: Awaited<ReturnType<typeof account>>) => {
    const flow = answer.data?.flows?.find((f) => f.is_pending);
    if (answer.status === 200) await enter();
    else if (flow) setPending(flow);
  };
  return (
    <div className="grid min-h-dvh place-items-center bg-neutral p-4">
      <div className="w-full max-w-[360px] rounded-[12px] bg-base-100 p-7">
        <div className="mb-5 flex items-center gap-3">
          <svg width="34" height="27" viewBox="0 0 26 21" aria-hidden="true">
            <path d="M1 12 8 2l5 7 4-5 8 8Z" fill="var(--s3)" />
            <path d="M1 14h24M4 17h18M8 20h10" stroke="var(--color-accent)" strokeWidth="1.6" />
          </svg>
          <h1>{t("tarn")}</h1>
        </div>
        {first.data?.needed ? (
          <FirstAccount done={() => void first.refetch()} />
        ) : step === "reset" && reset ? (
          <NewPassword
            theKey={reset}
            done={() => {
              setStep("name");
              void navigate({ to: "/sign-in", search: {} });
            }}
          />
        ) : step === "forgotten" ? (
          <Forgotten back={() => setStep("name")} />
        ) : pending ? (
          <SecondFactor flow={pending} goOn={goOn} back={() => setPending(null)} />
        ) : (
          <NameAndPassword
            goOn={goOn}
            forgotten={() => setStep("forgotten")}
            provider={first.data?.provider ?? ""}
            refused={
              error === "no_account"
                ? t("There is no account here for you. Ask an administrator for one.")
                : ""
            }
          />
        )}
      </div>
    </div>
  );
}

type GoOn = (answer: Awaited<ReturnType<typeof account>>) => Promise<void>;

function useStep(goOn: GoOn) {
  const [error, setError] = useState<unknown>(null);
  const [busy, setBusy] = useState(false);
  const run = async (call: () => ReturnType<typeof account>) => {
    setBusy(true);
    setError(null);
    try {
      await goOn(await call());
    } catch (refused) {
      setError(asProblem(refused));
    }
    setBusy(false);
  };
  return { error, busy, run };
}

function NameAndPassword(props: { goOn: GoOn; forgotten: () => void; provider: string; refused: string }) {
  const [username, setUsername] = useState("");
  const [password, setPassword] = useState("");
  const { error, busy, run } = useStep(props.goOn);
  const submit = (event: React.FormEvent) => {
    event.preventDefault();
    void run(() => account("POST", "/auth/login", { username, password }));
  };
  const passkey = () =>
    run(async () => {
      const { data } = await account("GET", "/auth/webauthn/login");
      return account("POST", "/auth/webauthn/login", { credential: await usePasskey(data?.request_options) });
    });
  return (
    <>
      <form onSubmit={submit}>
        <p className="dim mb-4 text-[13px]">
          {t("What do we have, what is on it, who has it, and what changed.")}
        </p>
        {props.refused && (
          <p role="alert" className="mb-3 text-[13px] font-semibold text-error">
            {props.refused}
          </p>
        )}
        <TextField
          label={t("Name")}
          required
          autoFocus
          complete="username"
          value={username}
          set={setUsername}
        />
        <TextField
          label={t("Password")}
          type="password"
          complete="current-password"
          required
          value={password}
          set={setPassword}
        />
        {error !== null && <Problem error={error} />}
        <button type="submit" className="btn btn-primary mt-2 w-full" disabled={busy}>
          {t("Sign in")}
        </button>
      </form>
      {props.provider && (
        <form method="post" action="/api/account/browser/v1/auth/provider/redirect" className="mt-2">
          <input type="hidden" name="csrfmiddlewaretoken" value={csrf()} />
          <input type="hidden" name="provider" value="company" />
          <input type="hidden" name="process" value="login" />
          <input type="hidden" name="callback_url" value={`${window.location.origin}/today`} />
          <button type="submit" className="btn w-full">
            {t("Sign in by {{provider}}", { provider: props.provider })}
          </button>
        </form>
      )}
      <div className="mt-3 flex justify-between text-[13px]">
        <button type="button" className="link-quiet font-semibold" onClick={() => void passkey()}>
          {t("Use a passkey")}
        </button>
        <button type="button" className="link-quiet" onClick={props.forgotten}>
          {t("Forgotten the password?")}
        </button>
      </div>
    </>
  );
}

function SecondFactor({ flow, goOn, back }: { flow: Flow; goOn: GoOn; back: () => void }) {
  const [code, setCode] = useState("");
  const { error, busy, run } = useStep(goOn);
  const types = flow.types ?? [];
  const submit = (event: React.FormEvent) => {
    event.preventDefault();
    void run(() => account("POST", "/auth/2fa/authenticate", { code: code.replace(/\s/g, "") }));
  };
  const passkey = () =>
    run(async () => {
      const { data } = await account("GET", "/auth/webauthn/authenticate");
      const credential = await usePasskey(data?.request_options);
      return account("POST", "/auth/webauthn/authenticate", { credential });
    });
  return (
    <form onSubmit={submit}>
      <p className="mb-3 text-[13px]">{t("Your password is right. Now the second factor.")}</p>
      {(types.includes("totp") || types.includes("recovery_codes")) && (
        <>
          <TextField
            label={t("Code")}
            mono
            autoFocus
            complete="one-time-code"
            value={code}
            set={setCode}
            hint={t("From your authenticator, or one of your recovery codes.")}
          />
          <button type="submit" className="btn btn-primary w-full" disabled={busy}>
            {t("Go on")}
          </button>
        </>
      )}
      {types.includes("webauthn") && (
        <button type="button" className="btn mt-2 w-full" disabled={busy} onClick={() => void passkey()}>
          {t("Use a passkey")}
        </button>
      )}
      {error !== null && <Problem error={error} />}
      <button type="button" className="link-quiet mt-3 text-[13px]" onClick={back}>
        {t("Begin again")}
      </button>
    </form>
  );
}
