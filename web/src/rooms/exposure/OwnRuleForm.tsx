import { useState } from "react";
import { client, ok, type Schemas } from "../../api/client";
import { FilterField } from "../../parts/ask/FilterField";
import { Dialog } from "../../parts/Dialog";
import { useDraft } from "../../parts/draft";
import { Choice, FormFoot, TextField, Tick } from "../../parts/Form";
import { capital, plural } from "../../parts/format";
import { GRADES } from "../../parts/Graded";
import { t, word } from "../../words";

type Rule = Schemas["OwnRuleOut"];
type Body = Schemas["OwnRuleIn"];

interface Props {
  held: Rule | null;
  verbs: string[];
  close: () => void;
}

/** Write a rule of our own: what fits it, how grave that is, and what is to be done. */
export function OwnRuleForm({ held, verbs, close }: Props) {
  const [found, setFound] = useState<Schemas["OwnRuleTriedOut"] | null>(null);
  const { v, field, tick, attempt, save, rest, busy } = useDraft(
    {
      name: held?.name ?? "",
      filter: held?.filter ?? "",
      grade: held?.grade ?? t("this month"),
      days: held?.days === null || held === null ? "" : String(held.days),
      verb: held?.verb ?? t("set right"),
      what: held?.what ?? "",
      todo: held?.todo ?? "",
      in_force: held?.in_force ?? true,
    },
    { close, changed: () => setFound(null) },
  );
  const body: Body = {
    ...v,
    grade: v.grade as Body["grade"],
    verb: v.verb as Body["verb"],
    days: v.days.trim() === "" ? null : Number(v.days),
    version: held?.version ?? 0,
  };
  const keep = save(async () => {
    if (held)
      await ok(client.PUT("/api/exposure/own/{number}", { params: { path: { number: held.id } }, body }));
    else await ok(client.POST("/api/exposure/own", { body }));
    return held
      ? t("“{{name}}” is changed.", { name: v.name })
      : t("“{{name}}” is in force.", { name: v.name });
  });
  const drop = save(async () => {
    await ok(client.DELETE("/api/exposure/own/{number}", { params: { path: { number: held?.id ?? 0 } } }));
    return t("“{{name}}” is dropped.", { name: held?.name });
  });
  const tryIt = () =>
    attempt(async () => {
      setFound(await ok(client.POST("/api/exposure/own/tried", { body: { filter: v.filter } })));
    });
  return (
    <Dialog title={held ? `“${held.name}”` : t("New rule of our own")} close={close} wide>
      <form onSubmit={keep}>
        <TextField
          label={t("Name")}
          required
          {...field("name")}
          hint={t("Stands beside every device it finds.")}
        />
        <FilterField
          label={t("What fits is a finding")}
          {...field("filter")}
          placeholder="ports[port = 23]"
          hint={t("A filter, as on the ask line.")}
        />
        <p className="pb-2 text-[13px]">
          <button type="button" className="btn btn-sm" onClick={() => void tryIt()}>
            {t("Try it")}
          </button>{" "}
          {found ? (
            <span aria-live="polite">
              {t("It finds")} <b>{plural(found.devices, "device")}</b> {t("of {{of}} now", { of: found.of })}
              {found.names.length > 0 &&
                `: ${found.names.join(", ")}${found.devices > found.names.length ? " …" : ""}`}
              .
            </span>
          ) : (
            <span className="faint">{t("shows what it would find, keeping nothing")}</span>
          )}
        </p>
        <div className="grid grid-cols-2 gap-x-3">
          <Choice
            label={t("It asks for")}
            {...field("grade")}
            options={GRADES.map((g): [string, string] => [g, word(g)])}
          />
          <TextField
            label={t("Promised within, in days")}
            type="number"
            least={0}
            {...field("days")}
            placeholder={t("as the grade promises")}
          />
          <Choice
            label={t("What ends it")}
            {...field("verb")}
            options={verbs.map((w): [string, string] => [w, capital(w)])}
          />
          <TextField label={t("… what")} {...field("what")} placeholder={t("port 23 (telnet)")} />
        </div>
        <TextField label={t("What is to be done")} rows={2} {...field("todo")} />
        <Tick label={t("In force")} {...tick("in_force")} />
        {rest}
        <FormFoot close={close} drop={held && !held.shipped ? () => void drop() : undefined} busy={busy} />
      </form>
    </Dialog>
  );
}
