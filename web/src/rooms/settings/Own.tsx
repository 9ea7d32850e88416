import { useQuery, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { account, asProblem, ProveYourself } from "../../api/account";
import { under } from "../../api/asking";
import { agoWords, iso, moment } from "../../parts/format";
import { sayRefused } from "../../parts/refusal";
import { Sheet } from "../../parts/Sheet";
import { Table } from "../../parts/table/Table";
import { t } from "../../words";
import { Codes, Passkey, PasswordForm, Prove, Totp } from "./SigningForms";

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
      sayRefused(told, t("It could not be done."));
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
        title={t("How you sign in")}
        className=""
        actions={
          <button type="button" className="btn btn-sm" onClick={() => setForm("password")}>
            {t("Change the password")}
          </button>
        }
      >
        {held.length > 0 && (
          <Table
            list="factors"
            label={t("Second factors")}
            rows={held}
            rowKey={(f) => `${f.type}${f.id ?? ""}`}
            columns={[
              { key: "what", label: t("What"), of: (f) => NAMES[f.type], className: "font-semibold" },
              {
                key: "name",
                label: t("Called"),
                of: (f) => (f.type === "recovery_codes" ? `${f.unused_code_count} unused` : (f.name ?? "")),
                className: "dim",
              },
              {
                key: "made",
                label: t("Made"),
                of: (f) => iso(f.created_at),
                cell: (f) => moment(iso(f.created_at)),
                className: "dim",
              },
              {
                key: "used",
                label: t("Used"),
                of: (f) => f.last_used_at && iso(f.last_used_at),
                cell: (f) => (f.last_used_at ? agoWords(iso(f.last_used_at)) : t("not yet")),
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
                      {t("Show")}
                    </button>
                  ) : (
                    <button type="button" className="link-quiet font-semibold" onClick={() => void drop(f)}>
                      {t("Remove")}
                    </button>
                  ),
                className: "text-right",
              },
            ]}
          />
        )}
        {held.length === 0 && (
          <p className="dim px-3.5 pb-2 text-[13px]">
            {t(
              "Only a password so far. With a second factor nobody signs in as you who has merely learnt it.",
            )}
          </p>
        )}
        <p className="flex flex-wrap gap-2 px-3.5 pb-3">
          {!held.some((f) => f.type === "totp") && (
            <button type="button" className="btn btn-sm" onClick={() => setForm("totp")}>
              {t("Add an authenticator")}
            </button>
          )}
          <button type="button" className="btn btn-sm" onClick={() => setForm("passkey")}>
            {t("Add a passkey")}
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

const NAMES = { totp: t("Authenticator"), webauthn: t("Passkey"), recovery_codes: t("Recovery codes") };

function Sessions({ held, end }: { held: Session[]; end: (ids: number[]) => void }) {
  const others = held.filter((s) => !s.is_current);
  return (
    <Sheet
      id="sessions"
      title={t("Where you are signed in")}
      className=""
      actions={
        others.length > 0 ? (
          <button type="button" className="btn btn-sm" onClick={() => end(others.map((s) => s.id))}>
            {t("Sign out everywhere else")}
          </button>
        ) : undefined
      }
    >
      <Table
        list="sessions"
        label={t("Where you are signed in")}
        rows={held}
        rowKey={(s) => s.id}
        columns={[
          { key: "address", label: t("Address"), of: (s) => s.ip, mono: true },
          {
            key: "browser",
            label: t("Browser"),
            of: (s) => s.user_agent,
            cell: (s) => <span title={s.user_agent}>{s.user_agent}</span>,
            className: "dim max-w-[26rem] truncate",
          },
          {
            key: "since",
            label: t("Since"),
            of: (s) => iso(s.created_at),
            cell: (s) => moment(iso(s.created_at)),
            className: "dim whitespace-nowrap",
          },
          {
            key: "do",
            label: "",
            cell: (s) =>
              s.is_current ? (
                <span className="tag ok">{t("this one")}</span>
              ) : (
                <button type="button" className="link-quiet font-semibold" onClick={() => end([s.id])}>
                  {t("End")}
                </button>
              ),
            className: "text-right",
          },
        ]}
      />
    </Sheet>
  );
}
