import { useQuery, useQueryClient } from "@tanstack/react-query";
import { toast } from "sonner";
import { asks, under } from "../../api/asking";
import { client, ok, type Schemas } from "../../api/client";
import { Dialog } from "../../parts/Dialog";
import { useDraft } from "../../parts/draft";
import { TextField } from "../../parts/Form";
import { agoWords, iso, moment, plural } from "../../parts/format";
import { useMe } from "../../parts/me";
import { Problem, Waiting } from "../../parts/Problem";
import { t, word } from "../../words";

type Person = Schemas["PersonOut"];

/** One account: where it is signed in, its tokens, what failed under its name, and what an administrator may do of it. */
export function AccountDialog({ person, close }: { person: Person; close: () => void }) {
  const queries = useQueryClient();
  const mine = useMe().data?.username === person.username;
  const { v, field, attempt, wrong, rest } = useDraft({ password: "" });
  const { password } = v;
  const path = { number: person.id };
  const asked = useQuery(asks("/api/people/{number}", { params: { path } }));
  const act = async (call: () => Promise<unknown>, said: string, leave = false) => {
    await attempt(async () => {
      await call();
      toast.success(said);
      await queries.invalidateQueries(under("people"));
      if (leave) close();
    });
  };
  const a = asked.data;
  const name = person.full_name || person.username;
  return (
    <Dialog title={name} close={close} wide>
      {asked.error && <Problem error={asked.error} />}
      {!a && !asked.error && <Waiting what={t("Looking …")} />}
      {a && (
        <>
          <p className="dim mb-3 text-[13px]">
            {word(a.role)}
            {a.active ? "" : t(", switched off")}
            {a.last_sign_in
              ? t(", last signed in {{last_sign_in}}", { last_sign_in: agoWords(iso(a.last_sign_in)) })
              : t(", has never signed in")}
            {a.elsewhere ? t(", signs in elsewhere") : ""}
            {a.factors.length ? `, ${plural(a.factors.length, "second factor")}` : t(", no second factor")}
          </p>
          <Listed title={t("Signed in")} none={t("Nowhere just now.")}>
            {a.held_sessions.map((s) => (
              <Line
                key={s.id}
                words={t("{{address}}, since {{began_at}}, last used {{seen_at}}", {
                  address: s.address,
                  began_at: moment(iso(s.began_at)),
                  seen_at: agoWords(iso(s.seen_at)),
                })}
                more={s.agent}
                act={t("End")}
                go={() =>
                  act(
                    () =>
                      ok(
                        client.DELETE("/api/people/{number}/sessions/{session}", {
                          params: { path: { ...path, session: s.id } },
                        }),
                      ),
                    t("Ended."),
                  )
                }
              />
            ))}
          </Listed>
          <Listed title={t("Tokens")} none={t("None.")}>
            {a.held_tokens.map((token) => (
              <Line
                key={token.id}
                words={`${token.name}: ${token.scope}, ${token.expires_at ? t("until {{expires_at}}", { expires_at: moment(iso(token.expires_at)) }) : t("without an end")}`}
                more={
                  token.used_at
                    ? t("last used {{used_at}}", { used_at: agoWords(iso(token.used_at)) })
                    : t("never used")
                }
                act={t("Withdraw")}
                go={() =>
                  act(
                    () =>
                      ok(
                        client.DELETE("/api/people/{number}/tokens/{token}", {
                          params: { path: { ...path, token: token.id } },
                        }),
                      ),
                    t("Withdrawn."),
                  )
                }
              />
            ))}
          </Listed>
          <Listed title={t("Failed sign-ins")} none={t("None in the last month.")}>
            {a.failures.slice(0, 8).map((f) => (
              <Line
                key={`${f.at}${f.address}`}
                words={t("{{at}} from {{address}}", { at: moment(iso(f.at)), address: f.address })}
              />
            ))}
          </Listed>
          {!a.elsewhere && (
            <form
              className="flex items-end gap-2"
              onSubmit={(event) => {
                event.preventDefault();
                void act(
                  () =>
                    ok(
                      client.POST("/api/people/{number}/password", { params: { path }, body: { password } }),
                    ),
                  t("The new password is set; its sessions have ended."),
                );
              }}
            >
              <div className="flex-1">
                <TextField
                  label={t("Set a new password")}
                  type="password"
                  required
                  {...field("password")}
                  hint={t("Tell it to them by another way than mail; they change it then.")}
                />
              </div>
              <button type="submit" className="btn mb-8">
                {t("Set it")}
              </button>
            </form>
          )}
          {wrong("person") && <p className="text-[13px] font-semibold text-error">{wrong("person")}</p>}
          {rest}
          <div className="mt-2 flex flex-wrap gap-2 border-t border-base-300 pt-3">
            <button
              type="button"
              className="btn btn-sm"
              onClick={() =>
                act(
                  () => ok(client.POST("/api/people/{number}/sign-out", { params: { path } })),
                  t("{{name}} is signed out everywhere.", { name }),
                  mine,
                )
              }
            >
              {t("Sign out everywhere")}
            </button>
            {a.factors.length > 0 && (
              <button
                type="button"
                className="btn btn-sm"
                onClick={() =>
                  act(
                    () => ok(client.DELETE("/api/people/{number}/factors", { params: { path } })),
                    t("Taken away; they sign in with the password and add a new one."),
                  )
                }
              >
                {t("Take away second factors")}
              </button>
            )}
            <button
              type="button"
              className="btn btn-sm"
              onClick={() =>
                act(
                  () =>
                    ok(
                      client.POST("/api/people/{number}/switch", {
                        params: { path },
                        body: { on: !a.active },
                      }),
                    ),
                  a.active ? t("Switched off.") : t("Switched on."),
                )
              }
            >
              {a.active ? t("Switch off") : t("Switch on")}
            </button>
            <span className="flex-1" />
            <button
              type="button"
              className="btn btn-ghost btn-sm text-error"
              onClick={() => {
                if (
                  window.confirm(
                    t("Remove the account of {{name}}? Its watches and calendar go with it. This is final.", {
                      name,
                    }),
                  )
                )
                  void act(
                    () => ok(client.DELETE("/api/people/{number}", { params: { path } })),
                    t("Removed."),
                    true,
                  );
              }}
            >
              {t("Remove")}
            </button>
            <button type="button" className="btn btn-sm" onClick={close}>
              {t("Close")}
            </button>
          </div>
        </>
      )}
    </Dialog>
  );
}

function Listed({ title, none, children }: { title: string; none: string; children: React.ReactNode[] }) {
  return (
    <section className="mb-3">
      <h3 className="text-[13px] font-semibold">{title}</h3>
      {children.length ? <ul>{children}</ul> : <p className="faint text-[13px]">{none}</p>}
    </section>
  );
}

function Line(props: { words: string; more?: string; act?: string; go?: () => void }) {
  return (
    <li className="flex items-baseline gap-3 text-[13px]">
      <span>{props.words}</span>
      <span className="faint min-w-0 flex-1 truncate" title={props.more}>
        {props.more}
      </span>
      {props.act && (
        <button type="button" className="link-quiet font-semibold" onClick={props.go}>
          {props.act}
        </button>
      )}
    </li>
  );
}
