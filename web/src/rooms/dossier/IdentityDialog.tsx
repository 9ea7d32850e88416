import { useQuery } from "@tanstack/react-query";
import { useNavigate } from "@tanstack/react-router";
import { useDeferredValue, useState } from "react";
import { asks } from "../../api/asking";
import { client, ok } from "../../api/client";
import type { Row, Sighting } from "../../api/types";
import { Dialog } from "../../parts/Dialog";
import { useDraft } from "../../parts/draft";
import { EvidenceMark } from "../../parts/Evidence";
import { TextField } from "../../parts/Form";
import { plural } from "../../parts/format";
import { undoToast } from "../../parts/undo";
import { t } from "../../words";

interface Props {
  plate: Row;
  sightings: Sighting[];
  close: () => void;
  saved: () => void;
}

/** Two assets that are one device, or one asset that is two: a person's word on it, which can be undone. */
export function IdentityDialog({ plate, sightings, close, saved }: Props) {
  const { v, field, attempt, rest } = useDraft({ text: "" });
  const { text } = v;
  const asked = useDeferredValue(text.trim());
  const [chosen, setChosen] = useState<string[]>([]);
  const navigate = useNavigate();
  const found = useQuery({
    ...asks("/api/assets", {
      params: {
        query: {
          filter: `"${asked.replace(/"/g, "")}" and standing in (register, intake)`,
          limit: 6,
          fields: "name,number,serial,kind,place",
        },
      },
    }),
    enabled: asked.length > 1,
    retry: false,
  });
  const sources = [...new Map(sightings.map((s) => [s.source, s])).values()];
  const act = async (call: Promise<{ asset: number; entry: number }>, said: string) => {
    await attempt(async () => {
      const done = await call;
      undoToast(said, done.entry, saved);
      saved();
      if (done.asset !== plate.id)
        await navigate({ to: "/assets/$asset", params: { asset: String(done.asset) }, search: {} });
    });
  };
  const path = { asset: plate.id };
  const rows = ((found.data?.rows ?? []) as Row[]).filter((r) => r.id !== plate.id);
  return (
    <Dialog title={t("Is {{name}} one device?", { name: plate.name ?? plate.number })} close={close}>
      <h3 className="mb-1 text-[14px] font-semibold">{t("It is the same as another asset")}</h3>
      <p className="dim mb-2 text-[13px]">
        {t(
          "Everything known of the other one becomes this one’s, its history included. Later evidence of either is then this asset’s.",
        )}
      </p>
      <TextField
        label={t("Name, number or serial of the other")}
        mono
        {...field("text")}
        placeholder={t("salt-lt-04")}
      />
      <ul className="mb-3 text-[13px]">
        {rows.map((r) => (
          <li key={r.id} className="flex items-baseline gap-2 border-t border-base-300 py-1">
            <span className="mono">{r.name}</span>
            <span className="dim">
              {r.number} · {r.kind ?? t("no kind")} · {r.serial ?? t("no serial")}
            </span>
            <button
              type="button"
              className="link-quiet ml-auto font-semibold"
              onClick={() =>
                act(
                  ok(client.POST("/api/assets/{asset}/merge", { params: { path }, body: { other: r.id } })),
                  t("{{number}} is now one with {{number2}}.", { number: r.number, number2: plate.number }),
                )
              }
            >
              {t("Merge")}
            </button>
          </li>
        ))}
        {asked.length > 1 && found.data && rows.length === 0 && (
          <li className="dim">{t("No other asset is so called.")}</li>
        )}
      </ul>
      <h3 className="mb-1 text-[14px] font-semibold">{t("It is two devices taken for one")}</h3>
      <p className="dim mb-2 text-[13px]">
        {t("What the sources ticked here have said becomes a new asset of its own.")}
      </p>
      <fieldset className="mb-2">
        <legend className="sr-only">{t("Sources of the other device")}</legend>
        {sources.map((s) => (
          <label key={s.source} className="flex items-center gap-2 py-0.5 text-[13px]">
            <input
              type="checkbox"
              className="checkbox checkbox-sm"
              checked={chosen.includes(s.source)}
              onChange={() =>
                setChosen(
                  chosen.includes(s.source) ? chosen.filter((c) => c !== s.source) : [...chosen, s.source],
                )
              }
            />
            <EvidenceMark kind={s.source_kind} /> {s.source}
            <span className="dim">
              {plural(sightings.filter((g) => g.source === s.source).length, "recent sighting")}
            </span>
          </label>
        ))}
      </fieldset>
      {rest}
      <div className="mt-3 flex gap-2">
        <span className="flex-1" />
        <button type="button" className="btn" onClick={close}>
          {t("Leave")}
        </button>
        <button
          type="button"
          className="btn btn-primary"
          disabled={chosen.length === 0 || chosen.length === sources.length}
          onClick={() =>
            act(
              ok(
                client.POST("/api/assets/{asset}/split", {
                  params: { path },
                  body: { sightings: [], sources: chosen },
                }),
              ),
              t("Split off as a new asset."),
            )
          }
        >
          {t("Split off")}
        </button>
      </div>
    </Dialog>
  );
}
