import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { toast } from "sonner";
import { renderSVG } from "uqr";
import { account, makePasskey, ProveYourself } from "../../api/account";
import { Dialog } from "../../parts/Dialog";
import { useDraft } from "../../parts/draft";
import { FormFoot, TextField } from "../../parts/Form";
import { plural } from "../../parts/format";
import { t } from "../../words";

export function PasswordForm({ close }: { close: () => void }) {
  const { v, field, submit, wrong, rest } = useDraft({ now: "", next: "" });
  const { now, next } = v;
  const save = submit(async () => {
    await account("POST", "/account/password/change", { current_password: now, new_password: next });
    toast.success(t("Your password is changed. Elsewhere you are signed out."));
    close();
  });
  return (
    <Dialog title={t("Change your password")} close={close}>
      <form onSubmit={save}>
        <TextField
          label={t("The password you have now")}
          type="password"
          complete="current-password"
          required
          {...field("now")}
          wrong={wrong("current_password")}
        />
        <TextField
          label={t("New password")}
          type="password"
          required
          {...field("next")}
          wrong={wrong("new_password")}
          hint={t("Twelve characters or more, and none of the common ones.")}
        />
        {rest}
        <FormFoot close={close} />
      </form>
    </Dialog>
  );
}

/** Type the password again before how one signs in is changed. */
export function Prove({ close, done }: { close: () => void; done: () => void }) {
  const { v, field, submit, rest } = useDraft({ password: "" });
  const { password } = v;
  const save = submit(async () => {
    await account("POST", "/auth/reauthenticate", { password });
    done();
  });
  return (
    <Dialog title={t("It is you?")} close={close}>
      <form onSubmit={save}>
        <p className="dim mb-3 text-[13px]">
          {t("Before how you sign in is changed, type your password again.")}
        </p>
        <TextField
          label={t("Password")}
          type="password"
          complete="current-password"
          required
          autoFocus
          {...field("password")}
        />
        {rest}
        <FormFoot close={close} save={t("Go on")} />
      </form>
    </Dialog>
  );
}

type Guarded = (act: () => Promise<void>) => Promise<void>;

export function Totp({ close, guarded }: { close: () => void; guarded: Guarded }) {
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
        toast.success(t("Added. Look at your recovery codes now, and keep them apart from your phone."));
        close();
      } catch (refused) {
        if (refused instanceof ProveYourself) throw refused;
        refuse(refused);
      }
    });
  };
  return (
    <Dialog title={t("Add an authenticator")} close={close}>
      <form onSubmit={save}>
        <p className="dim mb-3 text-[13px]">
          {t(
            "Take the picture with an authenticator (RFC 6238), or type the key into it; then type the code it shows.",
          )}
        </p>
        {offered.data && (
          <div className="mb-3 flex items-center gap-4">
            <img
              className="h-36 w-36 rounded bg-white p-1"
              alt={t("The key, to be taken by an authenticator")}
              src={`data:image/svg+xml;utf8,${encodeURIComponent(renderSVG(offered.data.totp_url))}`}
            />
            <code className="mono text-[13px] break-all select-all">{offered.data.secret}</code>
          </div>
        )}
        <TextField label={t("Code")} mono required complete="one-time-code" {...field("code")} />
        {rest}
        <FormFoot close={close} />
      </form>
    </Dialog>
  );
}

export function Passkey({ close, guarded }: { close: () => void; guarded: Guarded }) {
  const [name, setName] = useState("");
  const save = (event: React.FormEvent) => {
    event.preventDefault();
    void guarded(async () => {
      const { data } = await account("GET", "/account/authenticators/webauthn?passwordless");
      const credential = await makePasskey(data?.creation_options);
      await account("POST", "/account/authenticators/webauthn", { name, credential });
      toast.success(t("Added. You can sign in with it, without the password."));
      close();
    });
  };
  return (
    <Dialog title={t("Add a passkey")} close={close}>
      <form onSubmit={save}>
        <TextField
          label={t("Name")}
          required
          autoFocus
          value={name}
          set={setName}
          hint={t("So that you can tell it from others, such as “office notebook”.")}
        />
        <FormFoot close={close} save={t("Make it")} />
      </form>
    </Dialog>
  );
}

export function Codes({ close }: { close: () => void }) {
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
    <Dialog title={t("Recovery codes")} close={close}>
      <p className="dim mb-3 text-[13px]">
        {t("{{codes}}; each lets you in once in place of the second factor. Keep them apart from it.", {
          codes: plural(list.length, "code"),
        })}
      </p>
      <pre className="mono mb-3 grid grid-cols-2 gap-x-6 text-[14px] select-all">{list.join("\n")}</pre>
      <button type="button" className="btn" onClick={close}>
        {t("Close")}
      </button>
    </Dialog>
  );
}
