import { useNavigate } from "@tanstack/react-router";
import { useState } from "react";
import { client, ok, type Schemas } from "../../api/client";
import { OfferedField } from "../../parts/ask/OfferedField";
import { Dialog } from "../../parts/Dialog";
import { useDraft } from "../../parts/draft";
import { Choice, FormFoot, TextField } from "../../parts/Form";
import { OrganisationChoice } from "../../parts/Organisation";
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
    return held ? `“${v.name}” is changed.` : `“${v.name}” is kept.`;
  });
  const drop = save(async () => {
    await ok(client.DELETE("/api/services/{number}", { params: { path: { number: held?.id ?? 0 } } }));
    void navigate({ to: "/services", search: {} });
    return `“${held?.name}” is dropped.`;
  });
  const rehearse = () =>
    attempt(async () => {
      const said = { service: body, number: held?.id ?? null };
      setTried(await ok(client.POST("/api/services/rehearsal", { body: said })));
    });
  return (
    <Dialog title={held ? `“${held.name}”` : "New service"} close={close} wide>
      <form onSubmit={keep}>
        <div className="grid gap-x-4 sm:grid-cols-2">
          <TextField label="Name" required {...field("name")} hint="What people call it." />
          <TextField label="What it is for" {...field("purpose")} />
          <OfferedField of="person" label="Owner" {...field("owner")} hint="Who answers for it." />
          <TextField label="Deputies" {...field("deputies")} rows={1} hint="One a line." />
          <TextField
            label="Back within, in hours"
            type="number"
            step={0.25}
            {...field("promise")}
            hint="What is promised when it stops; empty for nothing."
          />
          <TextField label="Hours" {...field("hours")} placeholder="Monday to Friday, 07:00 to 19:00" />
          <Choice
            label="How much hangs on it"
            hint="Of much, what it stands on is graded higher in Exposure."
            {...field("importance")}
            options={[
              ["usual", "the usual"],
              ["high", "much"],
            ]}
          />
          <TextField label="Places" {...field("places")} rows={1} hint="Where it is used, one a line." />
        </div>
        <TextField
          label="Where it is reached"
          mono
          rows={2}
          {...field("entries")}
          hint="An address or name a line, with a port: tickets.example:443"
        />
        <OrganisationChoice label="Organisation" {...field("organisation")} none="the whole company" />
        <Parts parts={v.parts} set={(parts) => set({ parts })} wrong={wrong("parts")} />
        <TextField label="Notes" rows={2} {...field("notes")} />
        {tried && <Rehearsal told={tried} />}
        {rest}
        <div className="mt-1">
          <button type="button" className="btn btn-sm" disabled={busy} onClick={rehearse}>
            Try the rules
          </button>
        </div>
        <FormFoot close={close} save={held ? "Save" : "Keep it"} drop={held ? drop : undefined} busy={busy} />
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
