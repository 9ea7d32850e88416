import { useState } from "react";
import { client, ok } from "../../api/client";
import { TextField, useFaults } from "../../parts/Form";

/** At first start: the account of the first administrator, by whoever can read the server's own files. */
export function FirstAccount({ done }: { done: () => void }) {
  const [values, setValues] = useState({ code: "", username: "", password: "", full_name: "" });
  const { setError, wrong, rest } = useFaults();
  const set = (change: Partial<typeof values>) => setValues({ ...values, ...change });
  const submit = async (event: React.FormEvent) => {
    event.preventDefault();
    setError(null);
    try {
      await ok(client.GET("/api/csrf"));
      await ok(client.POST("/api/first", { body: values }));
      done();
    } catch (refused) {
      setError(refused);
    }
  };
  return (
    <form onSubmit={submit}>
      <p className="mb-3 text-[13px]">
        Nobody has an account yet. Make the first one, an administrator’s; it makes the others.
      </p>
      <TextField
        label="Code"
        mono
        required
        autoFocus
        value={values.code}
        set={(code) => set({ code })}
        wrong={wrong("code")}
        hint="It stands in the file first-sign-in.code beside Tarn’s data, and in its log."
      />
      <TextField
        label="Full name"
        value={values.full_name}
        set={(full_name) => set({ full_name })}
        complete="name"
      />
      <TextField
        label="Signs in as"
        mono
        required
        complete="username"
        value={values.username}
        set={(username) => set({ username })}
        wrong={wrong("username")}
      />
      <TextField
        label="Password"
        type="password"
        required
        value={values.password}
        set={(password) => set({ password })}
        wrong={wrong("password")}
        hint="Twelve characters or more, and none of the common ones."
      />
      {rest}
      <button type="submit" className="btn btn-primary mt-2 w-full">
        Make the first account
      </button>
    </form>
  );
}
