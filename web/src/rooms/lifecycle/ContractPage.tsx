import { useQuery } from "@tanstack/react-query";
import { Link, useNavigate, useParams } from "@tanstack/react-router";
import { useState } from "react";
import { asks } from "../../api/asking";
import { client, ok, type Schemas } from "../../api/client";
import { DeviceLink } from "../../parts/DeviceLink";
import { Dialog } from "../../parts/Dialog";
import { useDial } from "../../parts/dial";
import { Choice, FormFoot, TextField } from "../../parts/Form";
import { amount, day, iso, moment, plural } from "../../parts/format";
import { useMay } from "../../parts/me";
import { Papers } from "../../parts/Papers";
import { Unanswered } from "../../parts/Problem";
import { Sheet, useDone } from "../../parts/Sheet";
import { Table } from "../../parts/table/Table";
import { t, word } from "../../words";
import { ContractForm } from "./ContractForm";
import { Then, Until } from "./Contracts";

type Held = Schemas["ContractOut"];

/** One contract: its term and what happens at its end, what it costs, which devices it covers, what was decided. */
export function ContractPage() {
  const { contract } = useParams({ strict: false }) as { contract: string };
  const { at } = useDial();
  const navigate = useNavigate();
  const may = useMay("plan") && !at;
  const done = useDone("lifecycle");
  const [doing, setDoing] = useState<"" | "change" | "decide">("");
  const asked = useQuery(
    asks("/api/lifecycle/contracts/{number}", {
      params: { path: { number: Number(contract) }, query: { as_of: at } },
    }),
  );
  if (asked.error || !asked.data) return <Unanswered asked={asked} what={t("Reading the contract …")} />;
  const c = asked.data;
  const drop = async () => {
    if (!window.confirm(t("Drop “{{name}}”? It can be undone in Settings.", { name: c.name }))) return;
    const dropped = await done(
      () => ok(client.DELETE("/api/lifecycle/contracts/{number}", { params: { path: { number: c.id } } })),
      t("“{{name}}” is dropped.", { name: c.name }),
    );
    if (dropped) await navigate({ to: "/lifecycle", search: { tab: "contracts" } as never });
  };
  return (
    <div className="mx-auto w-full max-w-[1280px] px-4 pb-10">
      <p className="dim pt-3 text-[13px]">
        <Link to="/lifecycle" search={{ at, tab: "contracts" } as never} className="link-quiet font-semibold">
          {t("Contracts")}
        </Link>{" "}
        · {c.provider} <span className="mono">{c.number}</span>
      </p>
      <div className="flex flex-wrap items-center gap-x-4 gap-y-2 pb-3">
        <h1>{c.name}</h1>
        <span className="tag">{word(c.kind)}</span>
        <Then c={c} />
        <span className="flex-1" />
        {may && (
          <>
            {c.ends && c.state !== "over" && (
              <button type="button" className="btn btn-primary btn-sm" onClick={() => setDoing("decide")}>
                {t("Decide")}
              </button>
            )}
            <button type="button" className="btn btn-sm" onClick={() => setDoing("change")}>
              {t("Change")}
            </button>
            <button type="button" className="btn btn-sm text-error" onClick={() => void drop()}>
              {t("Drop")}
            </button>
          </>
        )}
      </div>
      <div className="grid items-start gap-3 lg:grid-cols-[5fr_7fr]">
        <Sheet id="terms" className="" title={t("What is agreed")}>
          <dl className="facts px-3.5 pb-3">
            <dt>{t("Began")}</dt>
            <dd>{day(c.starts)}</dd>
            <dd />
            <dt>{c.times ? t("This term ends") : t("Ends")}</dt>
            <dd>
              <Until c={c} />
              {c.times > 0 && (
                <span className="faint block">
                  {t("went on {{times}}", { times: plural(c.times, "time") })}
                </span>
              )}
            </dd>
            <dd />
            <dt>{t("Then")}</dt>
            <dd>
              {c.renews
                ? t("goes on for {{months}}, unless notice is given {{days}} before", {
                    months: plural(c.renews, "month"),
                    days: plural(c.notice, "day"),
                  })
                : c.ends
                  ? t("it is over")
                  : t("no end is agreed")}
            </dd>
            <dd />
            <dt>{t("People are told")}</dt>
            <dd>
              {c.notices.length ? (
                <>
                  {t("{{notices}} days before", { notices: c.notices.join(", ") })}
                  <WhoIsTold />
                </>
              ) : (
                t("by nobody")
              )}
            </dd>
            <dd />
            <dt>{t("Costs")}</dt>
            <dd>
              {c.cost
                ? `${amount(c.cost)} ${c.currency}, ${c.every === "once" ? t("once") : `each ${c.every}`}`
                : t("nothing")}
            </dd>
            <dd />
          </dl>
          {c.note && <p className="px-3.5 pb-3 text-[13px]">{c.note}</p>}
          <History c={c} />
        </Sheet>
        <div className="grid min-w-0 gap-3">
          <Sheet
            id="covered"
            className=""
            title={t("Devices it covers")}
            hint={c.covers ? plural(c.devices, "device") : t("it says nothing of devices")}
            actions={
              c.covers ? (
                <Link
                  to="/estate"
                  search={{ at, q: c.covers }}
                  className="link-quiet text-[13px] font-semibold"
                >
                  {t("See them in the estate")}
                </Link>
              ) : undefined
            }
          >
            {c.assets.length > 0 && (
              <Table
                list="contract-devices"
                label={t("Devices it covers")}
                rows={c.assets}
                rowKey={(a) => a.id}
                columns={[
                  {
                    key: "name",
                    label: t("Name"),
                    of: (a) => a.name,
                    cell: (a) => (
                      <DeviceLink asset={a.id} at={at}>
                        {a.name}
                      </DeviceLink>
                    ),
                  },
                  { key: "kind", label: t("Kind"), of: (a) => a.kind, className: "dim" },
                  { key: "place", label: t("Place"), of: (a) => a.place, className: "dim" },
                ]}
              />
            )}
            {c.covers && !c.assets.length && (
              <p className="dim px-3.5 pb-3 text-[13px]">
                {t("No device answers")} <span className="mono">{c.covers}</span>
                {t(": what it was made for is no longer there.")}
              </p>
            )}
            <Named what={t("Licences")} names={c.licences} gone="dropped" />
            <Named what={t("People")} names={c.people} gone={t("no longer here")} />
          </Sheet>
          {c.gone.length > 0 && (
            <Sheet
              id="gone"
              className=""
              title={t("No longer covered")}
              hint={t("{{devices}} when it began, and not now", { devices: plural(c.gone.length, "device") })}
            >
              <p className="px-3.5 pb-3 text-[13px]">
                {c.gone.slice(0, 40).map((a, n) => (
                  <span key={a.id}>
                    {n > 0 && ", "}
                    <DeviceLink asset={a.id} at={at}>
                      {a.name ?? t("asset {{id}}", { id: a.id })}
                    </DeviceLink>
                  </span>
                ))}
              </p>
            </Sheet>
          )}
          <Papers path={`/api/papers-of/contract/${c.id}`} />
        </div>
      </div>
      {doing === "change" && <ContractForm held={c} close={() => setDoing("")} />}
      {doing === "decide" && <Decide c={c} close={() => setDoing("")} />}
    </div>
  );
}

function Named(props: { what: string; names: { name: string; there: boolean }[]; gone: string }) {
  if (!props.names.length) return null;
  return (
    <p className="border-t border-[var(--line-2)] px-3.5 py-2 text-[13px]">
      <span className="dim">{props.what}:</span>{" "}
      {props.names.map((n, at) => (
        <span key={n.name}>
          {at > 0 && ", "}
          {n.name}
          {!n.there && <span className="tag warn ml-1">{word(props.gone)}</span>}
        </span>
      ))}
    </p>
  );
}

/** Letters are written by a watch on the notices; where there is none, nobody is promised any. */
function WhoIsTold() {
  const asked = useQuery(asks("/api/watches"));
  const watching = (asked.data ?? []).filter((w) => w.report === "notices" && w.to.length > 0);
  if (!asked.data) return null;
  const to = new Set(watching.flatMap((w) => w.to)).size;
  return (
    <span className="faint block">
      {watching.length > 0 ? (
        t("written to {{receivers}} by {{watching}}", {
          receivers: plural(to, "receiver"),
          watching: watching.map((w) => `“${w.name}”`).join(", "),
        })
      ) : (
        <>
          {t("no letters: nobody watches")}{" "}
          <Link to="/reports/$report" params={{ report: "notices" }} className="link-quiet font-semibold">
            {t("the notices of what ends")}
          </Link>
        </>
      )}
    </span>
  );
}

function History({ c }: { c: Held }) {
  if (!c.history.length && !c.former.length) return null;
  return (
    <ul className="border-t border-[var(--line-2)] px-3.5 py-2 text-[12.5px]">
      {c.former.map((f) => (
        <li key={f.until} className="py-0.5">
          <span className="dim">{t("until {{until}}", { until: day(f.until) })}</span> {f.provider},{" "}
          {f.cost
            ? `${amount(f.cost)} ${f.currency} ${f.every === "once" ? t("once") : `each ${f.every}`}`
            : t("nothing")}
        </li>
      ))}
      {c.history.map((h) => (
        <li key={`${h.at}${h.verb}`} className="py-0.5">
          <span className="dim">{moment(iso(h.at))}</span> {h.who} {word(h.verb)}
          {h.why && <span className="dim">: {h.why}</span>}
        </li>
      ))}
    </ul>
  );
}

function Decide({ c, close }: { c: Held; close: () => void }) {
  const done = useDone("lifecycle");
  const [decision, setDecision] = useState(c.decided || "renew");
  const [why, setWhy] = useState("");
  const save = async (event: React.FormEvent) => {
    event.preventDefault();
    const decided = await done(
      () =>
        ok(
          client.POST("/api/lifecycle/contracts/{number}/decision", {
            params: { path: { number: c.id } },
            body: { decision, why },
          }),
        ),
      decision ? `Decided: ${decision}.` : t("The decision is taken back."),
    );
    if (decided) close();
  };
  return (
    <Dialog
      title={t("What becomes of {{name}} after {{ends}}", { name: c.name, ends: c.ends && day(c.ends) })}
      close={close}
    >
      <form onSubmit={save}>
        <Choice
          label={t("It is")}
          value={decision}
          set={setDecision}
          options={[
            ["renew", "renewed"],
            ["replace", t("replaced by another")],
            ["let go", t("let go")],
            ["", t("not decided")],
          ]}
        />
        <TextField label={t("Why")} value={why} set={setWhy} hint={t("Stands in the history.")} />
        <FormFoot close={close} />
      </form>
    </Dialog>
  );
}
