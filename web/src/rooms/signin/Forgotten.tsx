import { useState } from "react";
import { toast } from "sonner";
import { account } from "../../api/account";
import { useDraft } from "../../parts/draft";
import { TextField } from "../../parts/Form";
import { t } from "../../words";

/** Asking for a letter with the way to a new password. */
export function Forgotten({ back }: { back: () => void }) {
  const { v, field, submit, rest } = useDraft({ email: "" });
  const { email } = v;
  const [sent, setSent] = useState(false);
  const send = submit(async () => {
    await account("POST", "/auth/password/request", { email });
    setSent(true);
  });
  return (
    <form onSubmit={send}>
      {sent ? (
        <p className="mb-3 text-[13px]">
          {t(
            "If an account has this address, a letter is on its way. No letter? An administrator can set your password.",
          )}
        </p>
      ) : (
        <>
          <TextField label={t("Your mail address")} required autoFocus complete="email" {...field("email")} />
          {rest}
          <button type="submit" className="btn btn-primary w-full">
            {t("Send me a letter")}
          </button>
        </>
      )}
      <button type="button" className="link-quiet mt-3 text-[13px]" onClick={back}>
        {t("Back to signing in")}
      </button>
    </form>
  );
}

/** Setting a new password with the key a letter brought. */
export function NewPassword({ theKey, done }: { theKey: string; done: () => void }) {
  const { v, field, submit, wrong, rest } = useDraft({ password: "" });
  const { password } = v;
  const send = submit(async () => {
    await account("POST", "/auth/password/reset", { key: theKey, password });
    toast.success(t("Your new password is set. Sign in with it."));
    done();
  });
  return (
    <form onSubmit={send}>
      <TextField
        label={t("New password")}
        type="password"
        required
        autoFocus
        {...field("password")}
        wrong={wrong("password") ?? wrong("key")}
        hint={t("Twelve characters or more, and none of the common ones.")}
      />
      {rest}
      <button type="submit" className="btn btn-primary w-full">
        {t("Set it")}
      </button>
    </form>
  );
}
