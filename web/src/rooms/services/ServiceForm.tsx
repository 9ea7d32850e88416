import { useNavigate } from "@tanstack/react-router";
import { useState } from "react";
import { client, ok, type Schemas } from "../../api/client";
import { OfferedField } from "../../parts/ask/OfferedField";
import { Dialog } from "../../parts/Dialog";
import { useDraft } from "../../parts/draft";
import { Choice, FormFoot, TextField } from "../../parts/Form";
import { OrganisationChoice } from "../../parts/Organisation";
import { t } from "../../words";
import { Parts } from "./Parts";
import { Rehearsal } from "./Rehearsal";

type Body = Schemas["ServiceIn"];

interface Props {
  held: Schemas["ServiceOut"] | null;
  proposed?: Schemas["ProposedService"];
  close: () => void;
}

/** Write a service: what it is, whose, what is promised, where it is reached, and rules for its parts. */
export function ServiceForm({ held, proposed, close }: Props) {
  const navigate = useNavigate();
  const [tried, setTried] = useState<Schemas["ServiceRehearsal"] | null>(null);
  const { v, field, set, wrong, attempt, save, rest, busy } = useDraft(begun(held, proposed), {
    close,
    changed: () => setTried(null),
  });
  const body: Body = {
    name: v.name,
    purpose: v.purpose,
    owner: v.owner,
    deputies: lines(v.deputies),
    promise: v.promise.trim() === "" ? null : Math.round(Number(v.promise) * 60),
    hours: v.hours,
    places: lines(v.places),
    importance: v.importance,
    notes: v.notes,
    entries: lines(v.entries).map(entry),
    parts: v.parts.map((p) => ({ ...p, rules: p.rules.filter((r) => r.filter.trim() !== "") })),
    organisation: v.organisation === "" ? null : Number(v.organisation),
    version: held?.version ?? null,
  };
  const keep = save(async () => {
    const made = held
      ? await ok(client.PUT("/api/services/{number}", { params: { path: { number: held.id } }, body }))
      : await ok(client.POST("/api/services", { body }));
    if (!held) void navigate({ to: "/services/$service", params: { service: String(made.id) }, search: {} });
    return held ? t("“{{name}}” is changed.", { name: v.name }) : t("“{{name}}” is kept.", { name: v.name });
  });
  const drop = save(async () => {
    await ok(client.DELETE("/api/services/{number}", { params: { path: { number: held?.id ?? 0 } } }));
    void navigate({ to: "/services", search: {} });
    return t("“{{name}}” is dropped.", { name: held?.name });
  });
  const rehearse = () =>
    attempt(async () => {
      const said = { service: body, number: held?.id ?? null };
      setTried(await ok(client.POST("/api/services/rehearsal", { body: said })));
    });
  return (
    <Dialog title={held ? `“${held.name}”` : t("New service")} close={close} wide>
      <form onSubmit={keep}>
        <div className="grid gap-x-4 sm:grid-cols-2">
          <TextField label={t("Name")} required {...field("name")} hint={t("What people call it.")} />
          <TextField label={t("What it is for")} {...field("purpose")} />
          <OfferedField of="person" label={t("Owner")} {...field("owner")} hint={t("Who answers for it.")} />
          <TextField label={t("Deputies")} {...field("deputies")} rows={1} hint={t("One a line.")} />
          <TextField
            label={t("Back within, in hours")}
            type="number"
            step={0.25}
            {...field("promise")}
            hint={t("What is promised when it stops; empty for nothing.")}
          />
          <TextField
            label={t("Hours")}
            {...field("hours")}
            placeholder={t("Monday to Friday, 07:00 to 19:00")}
          />
          <Choice
            label={t("How much hangs on it")}
            hint={t("Of much, what it stands on is graded higher in Exposure.")}
            {...field("importance")}
            options={[
              ["usual", t("the usual")],
              ["high", "much"],
            ]}
          />
          <TextField
            label={t("Places")}
            {...field("places")}
            rows={1}
            hint={t("Where it is used, one a line.")}
          />
        </div>
        <TextField
          label={t("Where it is reached")}
          mono
          rows={2}
          {...field("entries")}
          hint={t("An address or name a line, with a port: tickets.example:443")}
        />
        <OrganisationChoice
          label={t("Organisation")}
          {...field("organisation")}
          none={t("the whole company")}
        />
        <Parts parts={v.parts} set={(parts) => set({ parts })} wrong={wrong("parts")} />
        <TextField label={t("Notes")} rows={2} {...field("notes")} />
        {tried && <Rehearsal told={tried} />}
        {rest}
        <div className="mt-1">
          <button type="button" className="btn btn-sm" disabled={busy} onClick={rehearse}>
            {t("Try the rules")}
          </button>
        </div>
        <FormFoot
          close={close}
          save={held ? t("Save") : t("Keep it")}
          drop={held ? drop : undefined}
          busy={busy}
        />
      </form>
    </Dialog>
  );
}

function begun(held: Props["held"], proposed: Props["proposed"]) {
  const parts = (held ?? proposed)?.parts ?? [{ name: "", needs: 1, rules: [{ filter: "", why: "" }] }];
  const entries = (held ?? proposed)?.entries ?? [];
  return {
    name: held?.name ?? proposed?.name ?? "",
    purpose: held?.purpose ?? "",
    owner: held?.owner ?? "",
    deputies: held?.deputies.join("\n") ?? "",
    promise: held?.promise ? String(held.promise / 60) : "",
    hours: held?.hours ?? "",
    places: held?.places.join("\n") ?? "",
    importance: held?.importance ?? "usual",
    notes: held?.notes ?? "",
    entries: entries.map((e) => (e.port === null ? e.host : `${e.host}:${e.port}`)).join("\n"),
    parts: parts.map(({ name, needs, rules }) => ({ name, needs, rules })),
    organisation: held?.organisation_id ? String(held.organisation_id) : "",
  };
}

function lines(text: string) {
  return text
    .split("\n")
    .map((line) => line.trim())
    .filter(Boolean);
}

/** An entry as it is written: what stands after the last colon is the port, but for an IPv6 address without one. */
function entry(text: string): Schemas["EntryIn"] {
  const match = /^(\[[^\]]+\]|[^:]+):(\d+)$/.exec(text);
  if (!match) return { host: text, port: null };
  return { host: (match[1] ?? "").replace(/^\[|\]$/g, ""), port: Number(match[2]) };
}
