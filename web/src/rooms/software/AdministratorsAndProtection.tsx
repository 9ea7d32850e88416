import { useQuery } from "@tanstack/react-query";
import { Link } from "@tanstack/react-router";
import { asks } from "../../api/asking";
import type { Schemas } from "../../api/client";
import { count, plural } from "../../parts/format";
import { Unanswered } from "../../parts/Problem";
import { Sheet } from "../../parts/Sheet";
import { Table } from "../../parts/table/Table";
import { t, word } from "../../words";

interface Props {
  filter: string;
  at: string | undefined;
}

const COMPUTERS = "kind in (server, workstation, laptop, kiosk, till, hypervisor)";
const both = (filter: string, more: string) => `(${filter || COMPUTERS}) and ${more}`;

function Narrow({
  filter,
  at,
  children,
}: {
  filter: string;
  at: string | undefined;
  children: React.ReactNode;
}) {
  return (
    <Link to="/estate" search={{ at, q: filter }} className="link-quiet">
      {children}
    </Link>
  );
}

/** Who may act as administrator, and where: the approved beside the others. */
export function Administrators({ filter, at }: Props) {
  const asked = useQuery(asks("/api/software/administrators", { params: { query: { filter, as_of: at } } }));
  if (asked.error || !asked.data)
    return <Unanswered asked={asked} what={t("Reading who is administrator …")} />;
  const { rows, phrase, devices, unread } = asked.data;
  const parts: [string, string, Schemas["AdministratorOut"][]][] = [
    ["others", t("Not on the approved list"), rows.filter((r) => !r.approved)],
    ["approved", t("Approved"), rows.filter((r) => r.approved)],
  ];
  return (
    <>
      <p className="dim py-2 text-[13px]">
        {t("Of {{computers}}", { computers: plural(devices, "computer") })}
        {unread > 0 && (
          <>
            {t("; of")}{" "}
            <Narrow filter={both(filter, "unread accounts")} at={at}>
              {count(unread)}
            </Narrow>{" "}
            {t("accounts were never read")}
          </>
        )}
        {t(". Approved is whoever the phrase")}{" "}
        <Link to="/sets" search={{ tab: "phrases" } as never} className="mono underline">
          {t("@approved_administrators")}
        </Link>{" "}
        {t("names{{which}}.", { which: phrase ? "" : t("; there is none yet, so nobody is approved") })}
      </p>
      <div className="grid items-start gap-3 lg:grid-cols-2">
        {parts.map(([id, title, some]) => (
          <Sheet key={id} id={id} title={title} hint={plural(some.length, "account")} className="">
            {some.length === 0 ? (
              <p className="dim px-3.5 pb-3 text-[13px]">{t("None.")}</p>
            ) : (
              <Table
                list="administrators"
                label={title}
                rows={some}
                rowKey={(a) => `${a.kind} ${a.name}`}
                columns={[
                  {
                    key: "account",
                    label: t("Account"),
                    of: (a) => a.name,
                    cell: (a) => (
                      <>
                        {a.name}
                        {a.person && (
                          <Link
                            to="/people/$person"
                            params={{ person: a.person }}
                            search={{ at }}
                            className="link-quiet ml-2 font-sans"
                          >
                            {a.person}
                          </Link>
                        )}
                      </>
                    ),
                    mono: true,
                    className: "break-all",
                  },
                  {
                    key: "is",
                    label: t("Is"),
                    of: (a) => word(a.kind),
                    cell: (a) => (
                      <>
                        {word(a.kind)}
                        {a.members.length > 0 && (
                          <details className="text-[12px]">
                            <summary>{plural(a.members.length, "member")}</summary>
                            {a.members.join(", ")}
                          </details>
                        )}
                      </>
                    ),
                    className: "dim",
                  },
                  {
                    key: "on_devices",
                    label: t("On devices"),
                    of: (a) => a.devices,
                    cell: (a) => (
                      <Narrow filter={both(filter, a.filter)} at={at}>
                        {count(a.devices)}
                      </Narrow>
                    ),
                    num: true,
                  },
                ]}
              />
            )}
          </Sheet>
        ))}
      </div>
    </>
  );
}

/** How computers are protected: by state and by product, without any, with two at once, never read. */
export function Protection({ filter, at }: Props) {
  const asked = useQuery(asks("/api/software/protection", { params: { query: { filter, as_of: at } } }));
  if (asked.error || !asked.data)
    return <Unanswered asked={asked} what={t("Reading how they are protected …")} />;
  const p = asked.data;
  const lines: [string, number, string, string][] = [
    ...p.states.map((s, n): [string, number, string, string] => [
      s.label,
      s.devices,
      s.filter,
      n === 0 ? "ok" : "bad",
    ]),
    [t("read, and none is there"), p.none.devices, p.none.filter, "bad"],
    [t("two or more on at once"), p.two.devices, p.two.filter, "warn"],
  ];
  return (
    <div className="grid items-start gap-3 pt-3 lg:grid-cols-2">
      <Sheet id="states" title={plural(p.devices, "computer")} className="">
        <table className="grid-table">
          <tbody>
            {lines.map(([label, n, said, tone]) => (
              <tr key={label}>
                <td>
                  <span className={`tag ${n > 0 ? tone : ""}`}>{label}</span>
                </td>
                <td className="num">
                  <Narrow filter={both(filter, said)} at={at}>
                    {count(n)}
                  </Narrow>
                </td>
              </tr>
            ))}
            <tr>
              <td className="dim">{t("never read: their systems do not tell, or nothing read it yet")}</td>
              <td className="num dim">
                <Narrow filter={both(filter, p.unread.filter)} at={at}>
                  {count(p.unread.devices)}
                </Narrow>
              </td>
            </tr>
          </tbody>
        </table>
      </Sheet>
      <Sheet id="products" title={t("By product")} className="">
        {p.products.length === 0 ? (
          <p className="dim px-3.5 pb-3 text-[13px]">{t("None of these tells of a protection product.")}</p>
        ) : (
          <Table
            list="protection"
            label={t("Protection by product")}
            rows={p.products}
            rowKey={(one) => one.name}
            columns={[
              { key: "product", label: t("Product"), of: (one) => one.name },
              ...(
                [
                  ["there", t("Devices")],
                  ["on", t("On")],
                  ["current", t("On and current")],
                ] as const
              ).map(([key, label]) => ({
                key,
                label,
                of: (one: (typeof p.products)[number]) => one[key].devices,
                cell: (one: (typeof p.products)[number]) => (
                  <Narrow filter={both(filter, one[key].filter)} at={at}>
                    {count(one[key].devices)}
                  </Narrow>
                ),
                num: true,
              })),
            ]}
          />
        )}
      </Sheet>
    </div>
  );
}
