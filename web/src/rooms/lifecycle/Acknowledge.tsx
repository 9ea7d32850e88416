import { useQuery } from "@tanstack/react-query";
import { useParams } from "@tanstack/react-router";
import { asks } from "../../api/asking";
import { client, ok } from "../../api/client";
import { Alone } from "../../parts/Alone";
import { useDraft } from "../../parts/draft";
import { TextField } from "../../parts/Form";
import { capital, day } from "../../parts/format";
import { Waiting } from "../../parts/Problem";
import { t, word } from "../../words";

/** What somebody received, and their word that they did; needs no sign-in but the link. */
export function Acknowledge() {
  const { token } = useParams({ strict: false }) as { token: string };
  const { v, field, submit, rest } = useDraft({ name: "" });
  const { name } = v;
  const asked = useQuery({
    ...asks("/api/acknowledgements/{key}", { params: { path: { key: token } } }),
    retry: false,
  });
  const say = submit(async () => {
    await ok(
      client.POST("/api/acknowledgements/{key}", { params: { path: { key: token } }, body: { name } }),
    );
    await asked.refetch();
  });
  const told = asked.data;
  return (
    <Alone refused={t("This link does not open anything")} error={asked.error}>
      {asked.isPending ? <Waiting what={t("Opening …")} /> : null}
      {told && (
        <div className="sheet px-5 py-4">
          <h1>{told.done ? t("Acknowledged") : t("Have you received this?")}</h1>
          <dl className="facts py-3">
            <dt>{t("What")}</dt>
            <dd>
              {capital(word(told.kind || "device"))} {told.model}
            </dd>
            <dd />
            <dt>{t("Called")}</dt>
            <dd className="mono">{told.name || told.number}</dd>
            <dd />
            {told.serial && (
              <>
                <dt>{t("Serial number")}</dt>
                <dd className="mono">{told.serial}</dd>
                <dd />
              </>
            )}
            <dt>{t("For")}</dt>
            <dd>{told.receiver}</dd>
            <dd />
            <dt>{t("Given by")}</dt>
            <dd>
              {told.given_by}, {day(told.given_on)}
            </dd>
            <dd />
            {told.due && (
              <>
                <dt>{t("Back by")}</dt>
                <dd>{day(told.due)}</dd>
                <dd />
              </>
            )}
          </dl>
          {told.done ? (
            <p className="text-[13.5px]">
              {told.acknowledged_by
                ? t("{{name}} has acknowledged this. You can close this page.", {
                    name: told.acknowledged_by,
                  })
                : t("This was given back. Nothing is left to do.")}
            </p>
          ) : (
            <form onSubmit={say}>
              <TextField label={t("Your name")} {...field("name")} required />
              {rest}
              <button type="submit" className="btn btn-primary w-full">
                {t("I have received it")}
              </button>
            </form>
          )}
        </div>
      )}
    </Alone>
  );
}
