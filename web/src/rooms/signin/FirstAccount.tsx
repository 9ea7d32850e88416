import { client, ok } from "../../api/client";
import { useDraft } from "../../parts/draft";
import { TextField } from "../../parts/Form";
import { t } from "../../words";

/** At first start: the account of the first administrator, by whoever can read the server's own files. */
export function FirstAccount({ done }: { done: () => void }) {
  const {
    v: values,
    field,
    submit,
    rest,
  } = useDraft({ code: "", username: "", password: "", full_name: "" });
  const send = submit(async () => {
    await ok(client.GET("/api/csrf"));
    await ok(client.POST("/api/first", { body: values }));
    done();
  });
  return (
    <form onSubmit={send}>
      <p className="mb-3 text-[13px]">
        {t("Nobody has an account yet. Make the first one, an administrator’s; it makes the others.")}
      </p>
      <TextField
        label={t("Code")}
        mono
        required
        autoFocus
        {...field("code")}
        hint={t("It stands in the file first-sign-in.code beside Tarn’s data, and in its log.")}
      />
      <TextField label={t("Full name")} {...field("full_name")} complete="name" />
      <TextField label={t("Signs in as")} mono required complete="username" {...field("username")} />
      <TextField
        label={t("Password")}
        type="password"
        required
        {...field("password")}
        hint={t("Twelve characters or more, and none of the common ones.")}
      />
      {rest}
      <button type="submit" className="btn btn-primary mt-2 w-full">
        {t("Make the first account")}
      </button>
    </form>
  );
}
