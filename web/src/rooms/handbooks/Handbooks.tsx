import { useQuery } from "@tanstack/react-query";
import { Link, useNavigate } from "@tanstack/react-router";
import { useState } from "react";
import { asks } from "../../api/asking";
import { client, ok } from "../../api/client";
import { Dialog } from "../../parts/Dialog";
import { useDraft } from "../../parts/draft";
import { Choice, FormFoot, TextField } from "../../parts/Form";
import { day, plural } from "../../parts/format";
import { useMay } from "../../parts/me";
import { Empty, Unanswered } from "../../parts/Problem";
import { t } from "../../words";

/** The handbooks there are, and those one may begin with. */
export function Handbooks() {
  const may = useMay("keep");
  const [beginning, setBeginning] = useState<string | null>(null);
  const asked = useQuery(asks("/api/handbooks"));
  if (asked.error || !asked.data) return <Unanswered asked={asked} what={t("Reading the handbooks …")} />;
  const { handbooks, shipped } = asked.data;
  return (
    <>
      {may && (
        <div className="flex justify-end pb-2.5">
          <button type="button" className="btn btn-sm btn-primary" onClick={() => setBeginning("")}>
            {t("Begin a handbook")}
          </button>
        </div>
      )}
      {handbooks.length === 0 && (
        <Empty title={t("No handbook is begun yet.")}>
          {t(
            "A handbook has prose and blocks that Tarn fills afresh each time it is issued. Begin with one of those below.",
          )}
        </Empty>
      )}
      <div className="grid gap-2.5 md:grid-cols-2">
        {handbooks.map((h) => (
          <Link
            key={h.id}
            to="/handbooks/$handbook"
            params={{ handbook: String(h.id) }}
            search={{}}
            className="sheet block px-4 py-3 hover:border-primary"
          >
            <span className="flex items-baseline gap-2">
              <b className="min-w-0 flex-1 text-[15px]">{h.name}</b>
              {h.waits && <span className="tag warn">{t("waits for approval")}</span>}
            </span>
            <span className="dim block text-[13px]">{h.text}</span>
            <span className="dim text-[12.5px]">
              {h.last
                ? t("{{issues}}, last {{last}}", { issues: plural(h.issued, "issue"), last: day(h.last) })
                : t("never issued")}
              {h.rule && t(" · issued {{rule}}", { rule: h.rule })}
              {h.organisation && ` · ${h.organisation}`}
            </span>
            {h.trouble && <span className="block text-[12.5px] text-error">{h.trouble}</span>}
          </Link>
        ))}
      </div>
      <h2 className="pt-6 pb-2 text-[15px] font-semibold">{t("To begin with")}</h2>
      <ul className="grid gap-2 md:grid-cols-3">
        {shipped.map((s) => (
          <li key={s.key} className="sheet flex items-start gap-3 px-3.5 py-2.5 text-[13px]">
            <span className="min-w-0 flex-1">
              <b className="block">{s.name}</b>
              <span className="dim">{s.text}</span>
            </span>
            {may && (
              <button type="button" className="btn btn-xs" onClick={() => setBeginning(s.key)}>
                {t("Begin")}
                <span className="sr-only"> {s.name}</span>
              </button>
            )}
          </li>
        ))}
      </ul>
      {beginning !== null && (
        <Begin
          template={beginning}
          shipped={shipped}
          others={handbooks.map((h) => ({ id: h.id, name: h.name }))}
          close={() => setBeginning(null)}
        />
      )}
    </>
  );
}

function Begin(props: {
  template: string;
  shipped: { key: string; name: string }[];
  others: { id: number; name: string }[];
  close: () => void;
}) {
  const { shipped, others, close } = props;
  const navigate = useNavigate();
  const begun = {
    name: shipped.find((s) => s.key === props.template)?.name ?? "",
    from: props.template,
  };
  const { v, field, save, rest, busy } = useDraft(begun, { close, anew: "handbooks" });
  const begin = save(async () => {
    const copied = v.from.startsWith("copy:") ? Number(v.from.slice(5)) : null;
    const made = await ok(
      client.POST("/api/handbooks", {
        body: { name: v.name, template: copied === null ? v.from : "", copy_of: copied },
      }),
    );
    await navigate({ to: "/handbooks/$handbook", params: { handbook: String(made.id) }, search: {} });
    return t("“{{name}}” is begun.", { name: made.name });
  });
  return (
    <Dialog title={t("Begin a handbook")} close={close}>
      <form onSubmit={begin}>
        <TextField label={t("Name")} {...field("name")} required autoFocus />
        <Choice
          label={t("Begin with")}
          {...field("from")}
          options={[
            ["", t("an empty page")],
            ...shipped.map((s) => [s.key, s.name] as const),
            ...others.map((o) => [`copy:${o.id}`, t("a copy of {{name}}", { name: o.name })] as const),
          ]}
        />
        {rest}
        <FormFoot close={close} busy={busy} save={t("Begin")} />
      </form>
    </Dialog>
  );
}
