import { useQueryClient } from "@tanstack/react-query";
import { useNavigate, useSearch } from "@tanstack/react-router";
import { useState } from "react";
import { client, ok } from "../../api/client";
import { Labelled } from "../../parts/Dialog";
import { Problem } from "../../parts/Problem";

export function SignIn() {
  const [username, setUsername] = useState("");
  const [password, setPassword] = useState("");
  const [error, setError] = useState<unknown>(null);
  const [busy, setBusy] = useState(false);
  const queries = useQueryClient();
  const navigate = useNavigate();
  const { to } = useSearch({ strict: false }) as { to?: string };
  const submit = async (event: React.FormEvent) => {
    event.preventDefault();
    setBusy(true);
    setError(null);
    try {
      await ok(client.GET("/api/csrf"));
      const me = await ok(client.POST("/api/sign-in", { body: { username, password } }));
      queries.clear();
      queries.setQueryData(["me"], me);
      // Only a path of our own is gone to, whatever the address bar says.
      await navigate({ href: to?.startsWith("/") && !to.startsWith("//") ? to : "/estate" });
    } catch (refused) {
      setError(refused);
      setBusy(false);
    }
  };
  return (
    <div className="grid min-h-dvh place-items-center bg-neutral p-4">
      <form onSubmit={submit} className="w-full max-w-[360px] rounded-[12px] bg-base-100 p-7">
        <div className="mb-5 flex items-center gap-3">
          <svg width="34" height="27" viewBox="0 0 26 21" aria-hidden="true">
            <path d="M1 12 8 2l5 7 4-5 8 8Z" fill="var(--s3)" />
            <path d="M1 14h24M4 17h18M8 20h10" stroke="var(--color-accent)" strokeWidth="1.6" />
          </svg>
          <h1>tarn</h1>
        </div>
        <p className="dim mb-4 text-[13px]">What do we have, what is on it, who has it, and what changed.</p>
        <Labelled label="Name">
          {(id) => (
            <input
              id={id}
              className="input w-full"
              autoComplete="username"
              autoFocus
              required
              value={username}
              onChange={(e) => setUsername(e.target.value)}
            />
          )}
        </Labelled>
        <Labelled label="Password">
          {(id) => (
            <input
              id={id}
              type="password"
              className="input w-full"
              autoComplete="current-password"
              required
              value={password}
              onChange={(e) => setPassword(e.target.value)}
            />
          )}
        </Labelled>
        {error !== null && <Problem error={error} />}
        <button type="submit" className="btn btn-primary mt-4 w-full" disabled={busy}>
          Sign in
        </button>
      </form>
    </div>
  );
}
