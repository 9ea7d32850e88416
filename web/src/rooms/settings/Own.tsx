import { useQuery, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { toast } from "sonner";
import { renderSVG } from "uqr";
import { account, asProblem, makePasskey, ProveYourself } from "../../api/account";
import { under } from "../../api/asking";
import { ApiProblem } from "../../api/client";
import { Dialog } from "../../parts/Dialog";
import { useDraft } from "../../parts/draft";
import { FormFoot, TextField } from "../../parts/Form";
import { agoWords, iso, moment, plural } from "../../parts/format";
import { Sheet } from "../../parts/Sheet";
import { Table } from "../../parts/table/Table";

interface Factor {
  type: "totp" | "webauthn" | "recovery_codes";
  id?: number;
  name?: string;
  created_at: number;
  last_used_at: number | null;
  unused_code_count?: number;
}

interface Session {
  id: number;
  ip: string;
  user_agent: string;
  created_at: number;
  last_seen_at?: number;
  is_current: boolean;
}

type Form = "" | "password" | "totp" | "codes" | "passkey" | "prove";

/** How one signs in oneself: the password, second factors, and where one is signed in. */
export function Own() {
  const queries = useQueryClient();
  const [form, setForm] = useState<Form>("");
  const [after, setAfter] = useState<() => void>(() => () => {});
  const factors = useQuery({
    queryKey: ["/account", "factors"],
    queryFn: async () => (await account("GET", "/account/authenticators")).data as unknown as Factor[],
  });
  const sessions = useQuery({
    queryKey: ["/account", "sessions"],
    queryFn: async () => (await account("GET", "/auth/sessions")).data as unknown as Session[],
  });
  const fresh = () => {
    void queries.invalidateQueries(under("/account"));
    // Whether the role still asks for a factor is told with who one is.
    void queries.invalidateQueries(under("me"));
  };
  /** Do something that may ask for the password first, and then again. */
  const guarded = async (act: () => Promise<void>) => {
    try {
      await act();
      fresh();
    } catch (refused) {
      if (refused instanceof ProveYourself) {
        setAfter(() => () => void guarded(act));
        setForm("prove");
        return;
      }
      const told = asProblem(refused);
      toast.error(told instanceof ApiProblem ? told.problem.detail : "It could not be done.");
    }
  };
  const close = () => {
    setForm("");
    fresh();
  };
  const held = Array.isArray(factors.data) ? factors.data : [];
  const drop = (f: Factor) =>
    guarded(async () => {
      if (f.type === "webauthn")
        await account("DELETE", "/account/authenticators/webauthn", { authenticators: [f.id] });
      else await account("DELETE", "/account/authenticators/totp");
    });
  const open = (next: Form, probe: string) =>
    guarded(async () => {
      await account("GET", probe);
      setForm(next);
    });
  return (
    <>
      <Sheet
        id="own"
        title="How you sign in"
        className=""
        actions={
          <button type="button" className="btn btn-sm" onClick={() => setForm("password")}>
            Change the password
          </button>
        }
      >
        {held.length > 0 && (
          <Table
            list="factors"
            label="Second factors"
            rows={held}
            rowKey={(f) => `${f.type}${f.id ?? ""}`}
            columns={[
              { key: "what", label: "What", of: (f) => NAMES[f.type], className: "font-semibold" },
              {
                key: "name",
                label: "Called",
                of: (f) => (f.type === "recovery_codes" ? `${f.unused_code_count} unused` : (f.name ?? "")),
                className: "dim",
              },
              {
                key: "made",
                label: "Made",
                of: (f) => iso(f.created_at),
                cell: (f) => moment(iso(f.created_at)),
                className: "dim",
              },
              {
                key: "used",
                label: "Used",
                of: (f) => f.last_used_at && iso(f.last_used_at),
                cell: (f) => (f.last_used_at ? agoWords(iso(f.last_used_at)) : "not yet"),
                className: "dim",
              },
              {
                key: "do",
                label: "",
                cell: (f) =>
                  f.type === "recovery_codes" ? (
                    <button
                      type="button"
                      className="link-quiet font-semibold"
                      onClick={() => void open("codes", "/account/authenticators/recovery-codes")}
                    >
                      Show
                    </button>
                  ) : (
                    <button type="button" className="link-quiet font-semibold" onClick={() => void drop(f)}>
                      Remove
                    </button>
                  ),
                className: "text-right",
              },
            ]}
          />
        )}
        {held.length === 0 && (
          <p className="dim px-3.5 pb-2 text-[13px]">
            Only a password so far. With a second factor nobody signs in as you who has merely learnt it.
          </p>
        )}
        <p className="flex flex-wrap gap-2 px-3.5 pb-3">
          {!held.some((f) => f.type === "totp") && (
            <button type="button" className="btn btn-sm" onClick={() => setForm("totp")}>
              Add an authenticator
            </button>
          )}
          <button type="button" className="btn btn-sm" onClick={() => setForm("passkey")}>
            Add a passkey
          </button>
        </p>
      </Sheet>
      <Sessions
        held={Array.isArray(sessions.data) ? sessions.data : []}
        end={(ids) =>
          guarded(async () => void (await account("DELETE", "/auth/sessions", { sessions: ids })))
        }
      />
      {form === "password" && <PasswordForm close={close} />}
      {form === "prove" && (
        <Prove
          close={() => setForm("")}
          done={() => {
            setForm("");
            after();
          }}
        />
      )}
      {form === "totp" && <Totp close={close} guarded={guarded} />}
      {form === "passkey" && <Passkey close={close} guarded={guarded} />}
      {form === "codes" && <Codes close={close} />}
    </>
  );
}

const NAMES = { totp: "Authenticator", webauthn: "Passkey", recovery_codes: "Recovery codes" };

function Sessions({ held, end }: { held: Session[]; end: (ids: number[]) => void }) {
  const others = held.filter((s) => !s.is_current);
  return (
    <Sheet
      id="sessions"
      title="Where you are signed in"
      className=""
      actions={
        others.length > 0 ? (
          <button type="button" className="btn btn-sm" onClick={() => end(others.map((s) => s.id))}>
            Sign out everywhere else
          </button>
        ) : undefined
      }
    >
      <Table
        list="sessions"
        label="Where you are signed in"
        rows={held}
        rowKey={(s) => s.id}
        columns={[
          { key: "address", label: "Address", of: (s) => s.ip, mono: true },
          {
            key: "browser",
            label: "Browser",
            of: (s) => s.user_agent,
            cell: (s) => <span title={s.user_agent}>{s.user_agent}</span>,
            className: "dim max-w-[26rem] truncate",
          },
          {
            key: "since",
            label: "Since",
            of: (s) => iso(s.created_at),
            cell: (s) => moment(iso(s.created_at)),
            className: "dim whitespace-nowrap",
          },
          {
            key: "do",
            label: "",
            cell: (s) =>
              s.is_current ? (
                <span className="tag ok">this one</span>
              ) : (
                <button type="button" className="link-quiet font-semibold" onClick={() => end([s.id])}>
                  End
                </button>
              ),
            className: "text-right",
          },
        ]}
      />
    </Sheet>
  );
}

function PasswordForm({ close }: { close: () => void }) {
  const { v, field, submit, wrong, rest } = useDraft({ now: "", next: "" });
  const { now, next } = v;
  const save = submit(async () => {
    await account("POST", "/account/password/change", { current_password: now, new_password: next });
    toast.success("Your password is changed. Elsewhere you are signed out.");
    close();
  });
  return (
    <Dialog title="Change your password" close={close}>
      <form onSubmit={save}>
        <TextField
          label="The password you have now"
          type="password"
          complete="current-password"
          required
          {...field("now")}
          wrong={wrong("current_password")}
        />
        <TextField
          label="New password"
          type="password"
          required
          {...field("next")}
          wrong={wrong("new_password")}
          hint="Twelve characters or more, and none of the common ones."
        />
        {rest}
        <FormFoot close={close} />
      </form>
    </Dialog>
  );
}

/** Type the password again before how one signs in is changed. */
function Prove({ close, done }: { close: () => void; done: () => void }) {
  const { v, field, submit, rest } = useDraft({ password: "" });
  const { password } = v;
  const save = submit(async () => {
    await account("POST", "/auth/reauthenticate", { password });
    done();
  });
  return (
    <Dialog title="It is you?" close={close}>
      <form onSubmit={save}>
        <p className="dim mb-3 text-[13px]">Before how you sign in is changed, type your password again.</p>
        <TextField
          label="Password"
          type="password"
          complete="current-password"
          required
          autoFocus
          {...field("password")}
        />
        {rest}
        <FormFoot close={close} save="Go on" />
      </form>
    </Dialog>
  );
}

type Guarded = (act: () => Promise<void>) => Promise<void>;

function Totp({ close, guarded }: { close: () => void; guarded: Guarded }) {
  const { v, field, refuse, rest } = useDraft({ code: "" });
  const { code } = v;
  const offered = useQuery({
    queryKey: ["totp offered"],
    queryFn: async () =>
      (await account("GET", "/account/authenticators/totp")).meta as { secret: string; totp_url: string },
    staleTime: Number.POSITIVE_INFINITY,
    gcTime: 0,
  });
  const save = (event: React.FormEvent) => {
    event.preventDefault();
    void guarded(async () => {
      try {
        await account("POST", "/account/authenticators/totp", { code: code.replace(/\s/g, "") });
        toast.success("Added. Look at your recovery codes now, and keep them apart from your phone.");
        close();
      } catch (refused) {
        if (refused instanceof ProveYourself) throw refused;
        refuse(refused);
      }
    });
  };
  return (
    <Dialog title="Add an authenticator" close={close}>
      <form onSubmit={save}>
        <p className="dim mb-3 text-[13px]">
          Take the picture with an authenticator (RFC 6238), or type the key into it; then type the code it
          shows.
        </p>
        {offered.data && (
          <div className="mb-3 flex items-center gap-4">
            <img
              className="h-36 w-36 rounded bg-white p-1"
              alt="The key, to be taken by an authenticator"
              src={`data:image/svg+xml;utf8,${encodeURIComponent(renderSVG(offered.data.totp_url))}`}
            />
            <code className="mono text-[13px] break-all select-all">{offered.data.secret}</code>
          </div>
        )}
        <TextField label="Code" mono required complete="one-time-code" {...field("code")} />
        {rest}
        <FormFoot close={close} />
      </form>
    </Dialog>
  );
}

function Passkey({ close, guarded }: { close: () => void; guarded: Guarded }) {
  const [name, setName] = useState("");
  const save = (event: React.FormEvent) => {
    event.preventDefault();
    void guarded(async () => {
      const { data } = await account("GET", "/account/authenticators/webauthn?passwordless");
      const credential = await makePasskey(data?.creation_options);
      await account("POST", "/account/authenticators/webauthn", { name, credential });
      toast.success("Added. You can sign in with it, without the password.");
      close();
    });
  };
  return (
    <Dialog title="Add a passkey" close={close}>
      <form onSubmit={save}>
        <TextField
          label="Name"
          required
          autoFocus
          value={name}
          set={setName}
          hint="So that you can tell it from others, such as “office notebook”."
        />
        <FormFoot close={close} save="Make it" />
      </form>
    </Dialog>
  );
}

function Codes({ close }: { close: () => void }) {
  const codes = useQuery({
    queryKey: ["recovery codes"],
    queryFn: async () =>
      (await account("GET", "/account/authenticators/recovery-codes")).data as unknown as {
        unused_codes: string[];
      },
    gcTime: 0,
  });
  const list = codes.data?.unused_codes ?? [];
  return (
    <Dialog title="Recovery codes" close={close}>
      <p className="dim mb-3 text-[13px]">
        {plural(list.length, "code")}; each lets you in once in place of the second factor. Keep them apart
        from it.
      </p>
      <pre className="mono mb-3 grid grid-cols-2 gap-x-6 text-[14px] select-all">{list.join("\n")}</pre>
      <button type="button" className="btn" onClick={close}>
        Close
      </button>
    </Dialog>
  );
}
