import { useInfiniteQuery, useQuery, useQueryClient } from "@tanstack/react-query";
import { Link } from "@tanstack/react-router";
import { useState } from "react";
import { toast } from "sonner";
import { asks, under } from "../../api/asking";
import { client, ok } from "../../api/client";
import { useDraft } from "../../parts/draft";
import { agoWords, iso, moment } from "../../parts/format";
import { LanguageChoice } from "../../parts/LanguageChoice";
import { useMay, useMe } from "../../parts/me";
import { sayRefused } from "../../parts/refusal";
import { Sheet } from "../../parts/Sheet";
import { Table } from "../../parts/table/Table";
import { t, word } from "../../words";
import { Own } from "./Own";
import { People } from "./People";

export function Settings() {
  const me = useMe().data;
  return (
    <div className="mx-auto grid w-full max-w-[1080px] gap-4 px-4 py-4">
      <h1>{t("Settings")}</h1>
      <p className="dim -mt-2">
        {t("Signed in as")} {me?.full_name}, {word(me?.role ?? "")}
        {me && me.limits.length > 0 ? t(" for {{limits}}", { limits: me.limits.join(" and ") }) : ""}.
      </p>
      <LanguageChoice />
      {me?.factor_wanted && (
        <p
          role="alert"
          className="rounded-[7px] bg-warning px-4 py-2 text-[13px] font-semibold text-warning-content"
        >
          {t(
            "Your role asks for a second factor. Add an authenticator or a passkey; everything else waits for that.",
          )}
        </p>
      )}
      <Own />
      {me?.factor_wanted ? null : <Rest />}
    </div>
  );
}

/** What is of the company, and one's tokens. */
function Rest() {
  const mayPeople = useMay("people");
  const mayAudit = useMay("decide");
  const mayUpkeep = useMay("upkeep");
  return (
    <>
      {mayUpkeep && (
        <Link to="/how" className="link-quiet justify-self-start font-semibold">
          {t("How Tarn is: its queue, backups, disk and slow answers")}
        </Link>
      )}
      {mayPeople && <People />}
      {mayPeople && <FailedSignIns />}
      <Tokens />
      {mayAudit && <Audit />}
    </>
  );
}

function Tokens() {
  const queries = useQueryClient();
  const { v, set, rest, submit, attempt, busy } = useDraft({ name: "", scope: "read", days: "90" });
  const [made, setMade] = useState<string | null>(null);
  const tokens = useQuery(asks("/api/tokens"));
  const make = submit(async () => {
    const token = await ok(client.POST("/api/tokens", { body: { ...v, days: Number(v.days) } }));
    setMade(token.token ?? null);
    set({ name: "" });
    await queries.invalidateQueries(under("tokens"));
  });
  const withdraw = (id: number) =>
    attempt(async () => {
      await ok(client.DELETE("/api/tokens/{token_id}", { params: { path: { token_id: id } } }));
      await queries.invalidateQueries(under("tokens"));
    });
  return (
    <section className="sheet overflow-hidden" aria-labelledby="tokens-title">
      <div className="px-4 pt-3">
        <h2 id="tokens-title" className="text-[15px] font-semibold">
          {t("Tokens for scripts")}
        </h2>
        <p className="dim text-[13px]">
          {t("A script sends one as")} <span className="mono">{t("Authorization: Bearer …")}</span>{" "}
          {t("and may do no more than you may. No token makes tokens or accounts.")}
        </p>
        <form onSubmit={make} className="my-3 flex max-w-2xl flex-wrap gap-2">
          <input
            className="input flex-1"
            aria-label={t("Name of the token")}
            placeholder={t("What it is for")}
            required
            value={v.name}
            onChange={(e) => set({ name: e.target.value })}
          />
          <select
            className="select w-52"
            aria-label={t("What it reaches")}
            value={v.scope}
            onChange={(e) => set({ scope: e.target.value })}
          >
            <option value="read">{t("reads only")}</option>
            <option value="evidence">{t("hands in sightings only")}</option>
            <option value="all">{t("all that you may")}</option>
          </select>
          <select
            className="select w-32"
            aria-label={t("How long")}
            value={v.days}
            onChange={(e) => set({ days: e.target.value })}
          >
            <option value="7">{t("7 days")}</option>
            <option value="30">{t("30 days")}</option>
            <option value="90">{t("90 days")}</option>
            <option value="366">{t("a year")}</option>
          </select>
          <button type="submit" className="btn btn-primary" disabled={busy}>
            {t("Make a token")}
          </button>
        </form>
        <div className="mb-2 empty:hidden">{rest}</div>
        {made && (
          <p className="tag ok mb-3 !block !py-2 !whitespace-normal">
            {t("Copy it now, it is not shown again:")}{" "}
            <code className="mono break-all select-all">{made}</code>
          </p>
        )}
      </div>
      {(tokens.data ?? []).length > 0 && (
        <Table
          list="tokens"
          label={t("Tokens")}
          rows={tokens.data ?? []}
          rowKey={(token) => token.id}
          columns={[
            { key: "name", label: t("Token"), of: (token) => token.name, className: "font-semibold" },
            { key: "scope", label: t("Reaches"), of: (token) => token.scope, className: "dim" },
            {
              key: "made",
              label: t("Made"),
              of: (token) => iso(token.made_at),
              cell: (token) => moment(iso(token.made_at)),
              className: "dim",
            },
            {
              key: "ends",
              label: t("Ends"),
              of: (token) => token.expires_at && iso(token.expires_at),
              cell: (token) => (token.expires_at ? moment(iso(token.expires_at)) : t("never")),
              className: "dim",
            },
            {
              key: "used",
              label: t("Last used"),
              of: (token) => token.used_at && iso(token.used_at),
              cell: (token) => (token.used_at ? agoWords(iso(token.used_at)) : t("never")),
              className: "dim",
            },
            {
              key: "do",
              label: "",
              cell: (token) => (
                <button
                  type="button"
                  className="link-quiet font-semibold"
                  onClick={() => void withdraw(token.id)}
                >
                  {t("Withdraw")}
                </button>
              ),
              className: "text-right",
            },
          ]}
        />
      )}
      {tokens.data?.length === 0 && <p className="dim px-4 pb-3 text-[13px]">{t("You have none.")}</p>}
    </section>
  );
}

/** Sign-ins that failed, from where and under which name. */
function FailedSignIns() {
  const failed = useQuery(asks("/api/failed-sign-ins", { params: { query: { limit: 20 } } }));
  return (
    <Sheet
      id="failed"
      title={t("Failed sign-ins")}
      hint={t("of the last month, the latest first")}
      className=""
    >
      {(failed.data ?? []).length > 0 && (
        <Table
          list="failed-sign-ins"
          label={t("Failed sign-ins")}
          rows={failed.data ?? []}
          rowKey={(f) => `${f.at}${f.name}${f.address}`}
          columns={[
            {
              key: "when",
              label: t("When"),
              of: (f) => iso(f.at),
              cell: (f) => moment(iso(f.at)),
              className: "whitespace-nowrap",
            },
            { key: "name", label: t("As"), of: (f) => f.name || t("no name"), mono: true },
            { key: "address", label: t("From"), of: (f) => f.address, mono: true, className: "dim" },
          ]}
        />
      )}
      {failed.data?.length === 0 && <p className="dim px-3.5 pb-3 text-[13px]">{t("None.")}</p>}
    </Sheet>
  );
}

function Audit() {
  const queries = useQueryClient();
  const audit = useInfiniteQuery({
    queryKey: ["/api/audit"],
    queryFn: ({ pageParam }) =>
      ok(client.GET("/api/audit", { params: { query: { before: pageParam || undefined, limit: 50 } } })),
    initialPageParam: 0,
    getNextPageParam: (last) => (last.length === 50 ? last[last.length - 1]?.id : undefined),
  });
  const undo = async (id: number) => {
    try {
      await ok(client.POST("/api/audit/{entry_id}/undo", { params: { path: { entry_id: id } } }));
      toast.success(t("Undone."));
      await queries.invalidateQueries();
    } catch (error) {
      sayRefused(error, t("It could not be undone."));
    }
  };
  return (
    <section className="sheet overflow-x-auto" aria-labelledby="audit-title">
      <h2 id="audit-title" className="px-4 pt-3 pb-2 text-[15px] font-semibold">
        {t("Audit trail")}
      </h2>
      <Table
        list="audit"
        label={t("What people did")}
        rows={audit.data?.pages.flat() ?? []}
        rowKey={(e) => e.id}
        columns={[
          {
            key: "when",
            label: t("When"),
            of: (e) => iso(e.at),
            cell: (e) => moment(iso(e.at)),
            className: "whitespace-nowrap",
          },
          { key: "who", label: t("Who"), of: (e) => e.who },
          { key: "did", label: t("Did"), of: (e) => e.verb },
          { key: "to_what", label: t("To what"), of: (e) => e.thing, className: "dim" },
          {
            key: "do",
            label: "",
            cell: (e) => (
              <>
                {e.can_undo && (
                  <button type="button" className="link-quiet font-semibold" onClick={() => void undo(e.id)}>
                    {t("Undo")}
                  </button>
                )}
                {e.undone && <span className="tag">{t("undone")}</span>}
              </>
            ),
            className: "text-right",
          },
        ]}
      />
      {audit.hasNextPage && (
        <button
          type="button"
          className="link-quiet px-4 py-2 text-[13px] font-semibold"
          onClick={() => void audit.fetchNextPage()}
        >
          {t("Earlier")}
        </button>
      )}
    </section>
  );
}
