import { Link } from "@tanstack/react-router";
import { useState } from "react";
import { fieldText, quoted } from "../../parts/ask/written";
import { EstateNav } from "../../parts/EstateNav";
import { count } from "../../parts/format";
import { useMay } from "../../parts/me";
import { kindWords, type OwnField, type OwnKind, useOwn } from "../../parts/own/own";
import { Unanswered } from "../../parts/Problem";
import { Heads, Sheet } from "../../parts/Sheet";
import { Table } from "../../parts/table/Table";
import { t } from "../../words";
import { FieldForm } from "./FieldForm";
import { KindForm } from "./KindForm";

/** Kinds of device and thing, and the fields of the company's own on them. */
export function Kinds() {
  const own = useOwn();
  const may = useMay("plan");
  const [field, setField] = useState<OwnField | "new" | null>(null);
  const [kind, setKind] = useState<OwnKind | "new" | null>(null);
  if (own.error || !own.data) return <Unanswered asked={own} what={t("Reading kinds and fields …")} />;
  const { kinds, fields } = own.data;
  const below = (parent: string, depth = 0): [OwnKind, number][] =>
    kinds
      .filter((k) => k.parent === parent)
      .flatMap((k) => [[k, depth] as [OwnKind, number], ...below(k.name, depth + 1)]);
  const ofAll = fields.filter((f) => f.kinds.length === 0).map((f) => f.name);
  const shown = below("").filter(([k]) => k.id !== null || k.assets > 0);
  return (
    <div className="mx-auto w-full max-w-[1280px] px-4 pb-10">
      <EstateNav />
      <div className="flex flex-wrap items-baseline gap-x-4 gap-y-1 pt-1 pb-2">
        <h1>{t("Kinds and fields")}</h1>
        <span className="dim text-[13.5px]">
          {t("what no network shows: kinds of your own, and what you want to know of any asset")}
        </span>
      </div>
      <div className="grid items-start gap-3 lg:grid-cols-2">
        <Sheet
          id="fields"
          title={t("Fields of your own")}
          hint={t("in filters, columns, bands, reports, imports")}
          className=""
          actions={
            may && (
              <button type="button" className="btn btn-primary btn-sm" onClick={() => setField("new")}>
                {t("New field")}
              </button>
            )
          }
        >
          {fields.length === 0 ? (
            <p className="dim px-3.5 pb-3 text-[13px]">
              {t("None yet. A field may be on every asset or on some kinds only.")}
            </p>
          ) : (
            <Table
              list="kinds"
              label={t("Fields of your own")}
              rows={fields}
              rowKey={(f) => f.id}
              columns={[
                {
                  key: "field",
                  label: t("Field"),
                  of: (f) => f.name,
                  cell: (f) => (
                    <>
                      <b className="font-semibold">{f.name}</b>
                      {f.required && <span className="faint"> {t("needed")}</span>}
                      {f.group && <span className="faint block">{f.group}</span>}
                    </>
                  ),
                },
                {
                  key: "holds",
                  label: t("Holds"),
                  of: (f) => [f.type, f.unit && t("in {{unit}}", { unit: f.unit })].filter(Boolean).join(" "),
                  cell: (f) => (
                    <>
                      {f.type}
                      {f.unit && t(" in {{unit}}", { unit: f.unit })}
                      {f.choices.length > 0 && <span className="faint block">{f.choices.join(", ")}</span>}
                    </>
                  ),
                },
                {
                  key: "on",
                  label: t("On"),
                  of: (f) => f.kinds.join(", ") || t("every kind"),

                  className: "dim",
                },
                {
                  key: "filled",
                  label: t("Filled"),
                  of: (f) => f.filled,
                  cell: (f) => (
                    <Link
                      to="/estate"
                      search={{ q: `${fieldText(`field:${f.name}`)} != none` }}
                      className="link-quiet"
                    >
                      {count(f.filled)}
                    </Link>
                  ),
                  num: true,
                },
                {
                  key: "do",
                  label: "",
                  cell: (f) =>
                    may && (
                      <button type="button" className="link-quiet font-semibold" onClick={() => setField(f)}>
                        {t("Change")}
                      </button>
                    ),
                  className: "text-right",
                },
              ]}
            />
          )}
        </Sheet>
        <Sheet
          id="kinds"
          title={t("Kinds")}
          hint={
            ofAll.length
              ? t("each has {{ofAll}}; and the fields of those above it", { ofAll: ofAll.join(", ") })
              : t("one below another has its fields too")
          }
          className=""
          actions={
            may && (
              <button type="button" className="btn btn-primary btn-sm" onClick={() => setKind("new")}>
                {t("New kind")}
              </button>
            )
          }
        >
          <table className="grid-table">
            <Heads names={[t("Kind"), t("Assets"), t("Fields beside"), ""]} numbers={[t("Assets")]} />
            <tbody>
              {shown.map(([k, depth]) => (
                <tr key={k.name}>
                  <td style={{ paddingLeft: 14 + depth * 18 }}>
                    {k.icon && <span aria-hidden="true">{k.icon} </span>}
                    {kindWords(k)} {k.id !== null && <span className="tag note">{t("own")}</span>}
                  </td>
                  <td className="num">
                    <Link to="/estate" search={{ q: `kind = ${quoted(k.name)}` }} className="link-quiet">
                      {count(k.assets)}
                    </Link>
                  </td>
                  <td className="dim">{k.fields.filter((f) => !ofAll.includes(f)).join(", ")}</td>
                  <td className="text-right">
                    {may && k.id !== null && (
                      <button type="button" className="link-quiet font-semibold" onClick={() => setKind(k)}>
                        {t("Change")}
                      </button>
                    )}
                  </td>
                </tr>
              ))}
            </tbody>
          </table>
        </Sheet>
      </div>
      {field && (
        <FieldForm held={field === "new" ? null : field} own={own.data} close={() => setField(null)} />
      )}
      {kind && <KindForm held={kind === "new" ? null : kind} own={own.data} close={() => setKind(null)} />}
    </div>
  );
}
