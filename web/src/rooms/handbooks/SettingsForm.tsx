import { useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { asks } from "../../api/asking";
import { client, ok, type Schemas } from "../../api/client";
import { OfferedField } from "../../parts/ask/OfferedField";
import { Dialog } from "../../parts/Dialog";
import { useDraft } from "../../parts/draft";
import { FormFoot, TextField, Tick } from "../../parts/Form";
import { Schedule } from "../../parts/Schedule";
import { Secret } from "../../parts/Secret";
import { t } from "../../words";

type Handbook = Schemas["HandbookOut"];
const FORMATS = [
  ["pdf", "PDF"],
  ["docx", "DOCX"],
  ["html", "HTML"],
  ["md", t("Markdown")],
] as const;

interface Props {
  handbook: Handbook;
  kept: (handbook: Handbook) => void;
  close: () => void;
}

/** What a handbook is called and about, when it is issued, to whom it goes, and whether a second person approves it. */
export function SettingsForm({ handbook, kept, close }: Props) {
  const queries = useQueryClient();
  const [secret, setSecret] = useState("");
  const begun = {
    name: handbook.name,
    text: handbook.text,
    place: handbook.place,
    rule: handbook.rule,
    to: handbook.to.join("\n"),
    formats: handbook.formats,
    approved: handbook.approved,
  };
  const { v, field, set, tick, save, rest, busy, wrong } = useDraft(begun, { close, anew: "handbooks" });
  const keep = save(async () => {
    const to = v.to
      .split(/[\s,;]+/)
      .map((one) => one.trim())
      .filter(Boolean);
    const made = await ok(
      client.PUT("/api/handbooks/{number}", {
        params: { path: { number: handbook.id } },
        body: {
          name: v.name,
          text: v.text,
          place: v.place,
          rule: v.rule,
          to,
          formats: v.formats as Schemas["HandbookIn"]["formats"],
          approved: v.approved,
          document: handbook.document,
          version: handbook.version,
        },
      }),
    );
    queries.setQueryData(
      asks("/api/handbooks/{number}", { params: { path: { number: handbook.id } } }).queryKey,
      made,
    );
    kept(made);
    setSecret(made.secret);
    return made.secret ? null : t("Kept.");
  });
  if (secret) return <Secret secret={secret} close={close} />;
  const drop = async () => {
    if (
      !window.confirm(
        t("Drop “{{name}}” with its issues? The audit trail can bring it back.", { name: handbook.name }),
      )
    )
      return;
    await ok(client.DELETE("/api/handbooks/{number}", { params: { path: { number: handbook.id } } }));
    window.location.assign("/reports?tab=handbooks");
  };
  return (
    <Dialog title={t("This handbook")} close={close}>
      <form onSubmit={keep}>
        <TextField label={t("Name")} {...field("name")} required />
        <TextField label={t("What it is for")} {...field("text")} />
        <OfferedField
          of="place"
          label={t("Place it is about")}
          {...field("place")}
          hint={t("nothing: all places")}
        />
        <Schedule
          label={t("Issued by itself")}
          rule={v.rule}
          set={(rule) => set({ rule })}
          none={t("never")}
          wrong={wrong("rule")}
        />
        <TextField
          label={t("Sent to")}
          {...field("to")}
          rows={2}
          hint={t("a line each: addresses of mail, or https://… for a signed call")}
        />
        <fieldset className="mb-3">
          <legend className="mb-1 text-[13px] font-semibold">{t("Sent as")}</legend>
          <div className="flex gap-4">
            {FORMATS.map(([key, label]) => (
              <Tick
                key={key}
                label={label}
                on={v.formats.includes(key)}
                set={(on) => set({ formats: on ? [...v.formats, key] : v.formats.filter((f) => f !== key) })}
              />
            ))}
          </div>
          {wrong("formats") && <p className="text-[12.5px] font-semibold text-error">{wrong("formats")}</p>}
        </fieldset>
        <Tick label={t("An issue waits until a second person has approved it")} {...tick("approved")} />
        {rest}
        <FormFoot close={close} busy={busy} drop={() => void drop()} />
      </form>
    </Dialog>
  );
}
