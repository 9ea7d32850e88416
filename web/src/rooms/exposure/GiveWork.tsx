import { useQuery } from "@tanstack/react-query";
import { asks } from "../../api/asking";
import { client, ok, type Schemas } from "../../api/client";
import { Dialog } from "../../parts/Dialog";
import { daysFrom } from "../../parts/days";
import { useDraft } from "../../parts/draft";
import { Choice, FormFoot, TextField } from "../../parts/Form";
import { plural, today } from "../../parts/format";
import { t } from "../../words";
import { sentenceOf } from "./changing";

interface Props {
  page: Schemas["ChangePage"];
  filter: string;
  close: () => void;
}

/** Give a change to a person by a day, or to a service desk as a ticket; readings tell how far it is. */
export function GiveWork({ page, filter, close }: Props) {
  const { change, desks } = page;
  const people = useQuery(asks("/api/persons", { params: { query: {} } }));
  const { v, field, save, rest, busy, wrong } = useDraft(
    {
      how: "person" as "person" | "ticket",
      person: "",
      day:
        change.due?.slice(0, 10) && change.due.slice(0, 10) > today()
          ? change.due.slice(0, 10)
          : daysFrom(today(), 7),
      words: "",
      source: String(desks[0]?.id ?? ""),
    },
    { close },
  );
  const give = save(async () => {
    await ok(
      client.POST("/api/exposure/work", {
        body: {
          key: change.key,
          how: v.how,
          filter,
          person: v.how === "person" ? v.person : "",
          day: v.how === "person" ? v.day : "",
          words: v.words,
          source: v.how === "ticket" && v.source ? Number(v.source) : null,
          expected: change.devices,
        },
      }),
    );
    return v.how === "person"
      ? t("It is given to {{person}}.", { person: v.person })
      : t("The service desk took it in.");
  });
  return (
    <Dialog title={t("Give it to someone")} close={close}>
      <form onSubmit={give}>
        <p className="dim mb-3 text-[13px]">
          {t("{{change}} on {{devices}}. No tick ends it: it is done when readings say so.", {
            change: sentenceOf(change),
            devices: plural(change.devices, "device"),
          })}
        </p>
        {desks.length > 0 && (
          <Choice
            label={t("How")}
            {...field("how")}
            options={[
              ["person", t("to a person, by a day")],
              ["ticket", t("to the service desk, as a ticket")],
            ]}
          />
        )}
        {v.how === "person" ? (
          <>
            <TextField
              label={t("To whom")}
              required
              {...field("person")}
              list={(people.data ?? []).map((p) => p.name)}
            />
            <TextField label={t("By")} type="date" required {...field("day")} />
          </>
        ) : (
          <Choice
            label={t("Service desk")}
            {...field("source")}
            options={desks.map((d): [string, string] => [String(d.id), d.name])}
          />
        )}
        <TextField label={t("What else to say")} rows={3} {...field("words")} />
        {wrong("filter") && <p className="text-[13px] font-semibold text-error">{wrong("filter")}</p>}
        {rest}
        <FormFoot close={close} save={t("Give it")} busy={busy} />
      </form>
    </Dialog>
  );
}
