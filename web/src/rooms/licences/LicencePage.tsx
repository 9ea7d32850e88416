import { useQuery } from "@tanstack/react-query";
import { Link, useNavigate, useParams } from "@tanstack/react-router";
import { useState } from "react";
import { asks } from "../../api/asking";
import { client, ok, type Schemas } from "../../api/client";
import { DeviceLink } from "../../parts/DeviceLink";
import { useDial } from "../../parts/dial";
import { amount, count, day, plural } from "../../parts/format";
import { useMay } from "../../parts/me";
import { Papers } from "../../parts/Papers";
import { Unanswered } from "../../parts/Problem";
import { Sheet, useDone } from "../../parts/Sheet";
import { Table } from "../../parts/table/Table";
import { t, word } from "../../words";
import { KeysForm, PurchaseForm, RecordsForm } from "./Adding";
import { boughtColumns } from "./bought";
import { LicenceForm } from "./LicenceForm";
import { Term } from "./Owned";

type Held = Schemas["LicenceOut"];

function rights(l: Held): string[] {
  return [
    l.edition && t("edition {{edition}}", { edition: l.edition }),
    l.release ? t("release {{release}}", { release: l.release }) : t("any release"),
    l.downgrade && t("older releases too"),
    l.second_device && t("second device of a person"),
    l.guests === "host" && t("a host's units carry its guests"),
    l.per_processor > 0 &&
      t("at least {{per_processor}} cores a processor", { per_processor: l.per_processor }),
    l.pack > 1 && t("packs of {{pack}}", { pack: l.pack }),
    l.formula && `units = ${l.formula}`,
    l.departments.length > 0 && t("for {{departments}} alone", { departments: l.departments.join(", ") }),
    !l.transferable && t("not to be moved"),
    l.shared && t("other organisations too"),
    l.maintained_until &&
      t("maintenance until {{maintained_until}}", { maintained_until: day(l.maintained_until) }),
    l.cost_every &&
      t("{{cost}} {{cost_currency}} each {{cost_every}}", {
        cost: amount(l.cost),
        cost_currency: l.cost_currency,
        cost_every: l.cost_every,
      }),
  ].filter((word): word is string => Boolean(word));
}

/** One licence: what it gives, what was bought, who draws on it by which right. */
export function LicencePage() {
  const { licence } = useParams({ strict: false }) as { licence: string };
  const { at } = useDial();
  const navigate = useNavigate();
  const may = useMay("plan") && !at;
  const [doing, setDoing] = useState<"" | "change" | "buy" | "keys" | "records">("");
  const done = useDone("licences");
  const asked = useQuery(
    asks("/api/licences/{number}", {
      params: { path: { number: Number(licence) }, query: { as_of: at } },
    }),
  );
  if (asked.error || !asked.data) return <Unanswered asked={asked} what={t("Reading the licence …")} />;
  const l = asked.data;
  const close = () => setDoing("");
  const drop = async () => {
    if (
      !window.confirm(
        t("Drop “{{name}}” with its purchases and keys? It can be undone in Settings.", { name: l.name }),
      )
    )
      return;
    const dropped = await done(
      () => ok(client.DELETE("/api/licences/{number}", { params: { path: { number: l.id } } })),
      t("“{{name}}” is dropped.", { name: l.name }),
    );
    if (dropped) await navigate({ to: "/licences", search: { tab: "owned" } as never });
  };
  const left = l.quantity === null || l.quantity === undefined ? null : l.quantity - l.used;
  return (
    <div className="mx-auto w-full max-w-[1280px] px-4 pb-10">
      <p className="dim pt-3 text-[13px]">
        <Link to="/licences" search={{ at, tab: "owned" } as never} className="link-quiet font-semibold">
          {t("Licences")}
        </Link>
        {l.publisher && ` · ${l.publisher}`}
      </p>
      <div className="flex flex-wrap items-center gap-x-4 gap-y-2">
        <h1>{l.name}</h1>
        <span className="tag">{word(l.metric)}</span>
        <span className="dim text-[13.5px]">
          <Term l={l} />
        </span>
        <span className="flex-1" />
        {may && (
          <>
            <button type="button" className="btn btn-primary btn-sm" onClick={() => setDoing("buy")}>
              {t("Add a purchase")}
            </button>
            <button type="button" className="btn btn-sm" onClick={() => setDoing("keys")}>
              {t("Add keys")}
            </button>
            {l.records && (
              <button type="button" className="btn btn-sm" onClick={() => setDoing("records")}>
                {t("Records of use")}
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
      <p className="pt-1 text-[13.5px]">
        {t("Covers {{products}}.", { products: l.products.join(", ") })}{" "}
        <span className="dim">{rights(l).join("; ")}.</span>
      </p>
      {l.unknown.length > 0 && (
        <p className="mt-2 rounded bg-warning px-2.5 py-1.5 text-[13px] text-warning-content">
          {t("No device has or had {{unknown}}. Check the spelling against the Software room.", {
            unknown: l.unknown.join(", "),
          })}
        </p>
      )}
      {l.note && <p className="pt-1 text-[13.5px]">{l.note}</p>}
      {(l.tags.length > 0 || Object.keys(l.extra).length > 0) && (
        <p className="flex flex-wrap gap-1.5 pt-1.5 text-[13px]">
          {l.tags.map((word) => (
            <span key={word} className="tag">
              {word}
            </span>
          ))}
          {Object.entries(l.extra).map(([name, value]) => (
            <span key={name}>
              <span className="dim">{name}</span> {value}
            </span>
          ))}
        </p>
      )}
      <p className="py-3 text-[15px]">
        <b className="tabular-nums">
          {l.quantity === null || l.quantity === undefined ? "∞" : count(l.quantity)}
        </b>{" "}
        <span className="dim">{t("{{unit}} owned,", { unit: l.unit })}</span>{" "}
        <b className="tabular-nums">{count(l.used)}</b> <span className="dim">{t("drawn on")}</span>
        {left !== null && (
          <>
            <span className="dim">,</span> <b className="tabular-nums">{count(left)}</b>{" "}
            <span className="dim">{t("left")}</span>
          </>
        )}
      </p>
      <div className="grid items-start gap-3 lg:grid-cols-[5fr_7fr]">
        <div className="grid min-w-0 gap-3">
          <Purchases l={l} may={may} />
          <Former l={l} />
          <Papers path={`/api/papers-of/licence/${l.id}`} />
        </div>
        <Drawn l={l} at={at} />
      </div>
      {doing === "change" && <LicenceForm held={l} close={close} />}
      {doing === "buy" && <PurchaseForm licence={l} close={close} />}
      {doing === "records" && <RecordsForm close={close} />}
      {doing === "keys" && <KeysForm licence={l} close={close} />}
    </div>
  );
}

/** The terms it had before they were changed: what past days are reckoned with. */
function Former({ l }: { l: Held }) {
  if (!l.former.length) return null;
  return (
    <Sheet id="former" className="" title={t("Terms it had")} hint={t("past days are reckoned with them")}>
      <ul className="px-3.5 pb-3 text-[13px]">
        {l.former.map((f) => (
          <li key={f.until}>
            {t("Until {{until}}: counted by {{metric}}, {{which}}, covering {{products}}.", {
              until: day(f.until),
              metric: String(f.terms.metric),
              which: String(f.terms.release)
                ? t("release {{release}}", { release: String(f.terms.release) })
                : t("any release"),
              products: (f.terms.products as string[]).join(", "),
            })}
          </li>
        ))}
      </ul>
    </Sheet>
  );
}

function Purchases({ l, may }: { l: Held; may: boolean }) {
  const done = useDone("licences");
  return (
    <Sheet
      id="purchases"
      className=""
      title={t("Purchases")}
      hint={l.purchases.length ? "" : t("none yet: nothing is owned")}
    >
      {l.purchases.length > 0 && (
        <Table
          list="licence-purchases"
          label={t("Purchases")}
          rows={l.purchases}
          rowKey={(p) => p.id}
          rowClass={(p) => (p.counts ? "" : "dim")}
          columns={[
            {
              key: "day",
              label: t("Day"),
              of: (p) => p.day,
              cell: (p) => (
                <>
                  {day(p.day)}
                  {!p.counts && <span className="tag ml-2">{t("later")}</span>}
                </>
              ),
              className: "whitespace-nowrap",
            },
            ...boughtColumns(),
            {
              key: "order",
              label: t("Order"),
              of: (p) => p.order,
              cell: (p) => (
                <>
                  <span className="mono">{p.order}</span> {p.supplier}
                </>
              ),
              className: "dim",
            },
            {
              key: "do",
              label: "",
              cell: (p) =>
                may && (
                  <button
                    type="button"
                    className="link-quiet font-semibold"
                    aria-label={t("Drop the purchase of {{day}}", { day: day(p.day) })}
                    onClick={() =>
                      void done(
                        () =>
                          ok(
                            client.DELETE("/api/licences/purchases/{number}", {
                              params: { path: { number: p.id } },
                            }),
                          ),
                        t("The purchase is dropped."),
                      )
                    }
                  >
                    {t("Drop")}
                  </button>
                ),
              num: true,
            },
          ]}
        />
      )}
    </Sheet>
  );
}

function Drawn({ l, at }: { l: Held; at: string | undefined }) {
  return (
    <Sheet
      id="drawn"
      className=""
      title={t("Who draws on it")}
      hint={
        l.bearers_all > l.bearers.length
          ? t("the first {{bearers}} of {{bearers_all}}", {
              bearers: l.bearers.length,
              bearers_all: count(l.bearers_all),
            })
          : plural(l.bearers_all, "bearer")
      }
    >
      {l.bearers.length > 0 && (
        <Table
          list="licence-uses"
          label={t("Who draws on it")}
          rows={l.bearers}
          rowKey={(b) => `${b.uses[0]?.asset}-${b.uses[0]?.product}`}
          columns={[
            {
              key: "units",
              label: t("Units"),
              of: (b) => b.units,
              cell: (b) => count(b.units),
              num: true,
              mono: true,
            },
            {
              key: "on",
              label: t("On"),
              of: (b) => b.uses.map((u) => u.name).join(", "),
              cell: (b) => (
                <>
                  {b.uses.slice(0, 4).map((u) => (
                    <span key={`${u.asset}${u.product}`} className="block">
                      <DeviceLink asset={u.asset} at={at}>
                        {u.name}
                      </DeviceLink>{" "}
                      <span className="dim">
                        {l.products.length > 1 && `${u.product} `}
                        <span className="mono">{u.release}</span>
                      </span>
                      {u.person && <span className="dim"> {u.person}</span>}
                    </span>
                  ))}
                  {b.uses.length > 4 && (
                    <span className="faint">{t("and {{uses}} more", { uses: b.uses.length - 4 })}</span>
                  )}
                </>
              ),
            },
            {
              key: "by_right_of",
              label: t("By right of"),
              of: (b) => b.uses[0]?.right,
              cell: (b) => (
                <>
                  {b.uses[0]?.right}
                  {b.uses.some((u) => u.pinned) && <span className="tag note ml-2">{t("pinned")}</span>}
                </>
              ),
              className: "dim",
            },
            { key: "reckoned", label: t("Reckoned"), of: (b) => b.text, className: "faint" },
          ]}
        />
      )}
    </Sheet>
  );
}
