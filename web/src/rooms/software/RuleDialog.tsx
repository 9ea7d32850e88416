import { useQuery, useQueryClient } from "@tanstack/react-query";
import { toast } from "sonner";
import { asks } from "../../api/asking";
import { client, ok } from "../../api/client";
import { quoted } from "../../parts/ask/written";
import { Dialog } from "../../parts/Dialog";
import { useDraft } from "../../parts/draft";
import { Choice, FormFoot, TextField } from "../../parts/Form";
import { plural } from "../../parts/format";
import { asOrganisation, OrganisationChoice } from "../../parts/Organisation";
import { t } from "../../words";

type Subject = "product" | "publisher" | "phrase";
type Word = "permitted" | "tolerated" | "barred" | "none yet";

interface Props {
  names: string[];
  subject?: Subject;
  close: () => void;
  done: () => void;
}

const WORDS: [Word, string][] = [
  ["permitted", t("Permitted")],
  ["tolerated", t("Tolerated until a date")],
  ["barred", t("Barred")],
  ["none yet", t("No ruling")],
];

/** Rule on one thing or many alike; says on how many devices it is before anything is saved. */
export function RuleDialog({ names, subject = "product", close, done }: Props) {
  const queries = useQueryClient();
  const {
    v: values,
    field,
    submit,
    wrong,
    rest,
  } = useDraft({
    name: names[0] ?? "",
    subject,
    verdict: "barred" as Word,
    low: "",
    high: "",
    department: "",
    until: "",
    review: "",
    why: "",
    organisation: "",
  });
  const open = names.length === 0;
  const what = open ? [values.name] : names;
  const filter =
    values.subject === "product"
      ? `software[product in (${what.filter(Boolean).map(quoted).join(", ")})]`
      : values.subject === "publisher"
        ? `software[publisher = ${quoted(values.name)}]`
        : `software[product in @${values.name}]`;
  const touched = useQuery({
    ...asks("/api/assets", { params: { query: { filter, limit: 0 } } }),
    enabled: what.some(Boolean),
    retry: false,
  });
  const save = submit(async () => {
    const end = (date: string) => (date ? Math.floor(Date.parse(`${date}T23:59:59`) / 1000) : null);

    await ok(
      client.POST("/api/software/rulings", {
        body: {
          names: what,
          subject: values.subject,
          verdict: values.verdict,
          low: values.low,
          high: values.high,
          department: values.department,
          until: values.verdict === "tolerated" ? end(values.until) : null,
          review_at: end(values.review),
          why: values.why,
          organisation: asOrganisation(values.organisation),
        },
      }),
    );
    toast.success(
      t("{{which}}: {{which2}} from now on.", {
        which: what.length === 1 ? `“${what[0]}”` : plural(what.length, "product"),
        which2: values.verdict === "none yet" ? t("no ruling") : values.verdict,
      }),
    );
    await queries.invalidateQueries();
    done();
  });
  const one = what.length === 1 && values.subject === "product";
  return (
    <Dialog
      title={
        open
          ? t("New ruling")
          : t("Rule on {{which}}", { which: names.length === 1 ? names[0] : plural(names.length, "product") })
      }
      close={close}
    >
      <form onSubmit={save}>
        {open && (
          <div className="grid grid-cols-2 gap-3">
            <Choice
              label={t("On")}
              {...field("subject")}
              options={[
                ["product", "a product"],
                ["publisher", t("all of a publisher")],
                ["phrase", t("what a phrase names")],
              ]}
            />
            <TextField
              label={values.subject === "phrase" ? t("Phrase, without its @") : t("Name")}
              {...field("name")}
              required
            />
          </div>
        )}
        {!open && names.length > 1 && (
          <p className="dim mb-3 max-h-24 overflow-auto text-[13px]">{names.join(", ")}</p>
        )}
        <div className="grid grid-cols-2 gap-3">
          <Choice label={t("The company says")} {...field("verdict")} options={WORDS} />
          {values.verdict === "tolerated" ? (
            <TextField label={t("Until, that day in")} type="date" {...field("until")} required />
          ) : (
            <TextField
              label={t("Look at it again on")}
              type="date"
              {...field("review")}
              wrong={wrong("review_at")}
            />
          )}
          {one && (
            <>
              <TextField
                label={t("From release")}
                mono
                {...field("low")}
                hint={t("Empty: from the first.")}
              />
              <TextField label={t("Up to release")} mono {...field("high")} hint={t("Empty: to the last.")} />
            </>
          )}
        </div>
        <TextField
          label={t("Only for the department")}
          {...field("department")}
          hint={t("Empty: for the whole company. A department’s own ruling comes before the company’s.")}
        />
        <TextField label={t("Why")} {...field("why")} />
        <OrganisationChoice label={t("For the organisation")} {...field("organisation")} />
        <p className="dim text-[13px]" aria-live="polite">
          {touched.data &&
            t("Found on {{devices}} now. Rulings change no device; they can be undone.", {
              devices: plural(touched.data.total, "device"),
            })}
          {touched.error ? t("Nothing by that name is known yet; the ruling will wait for it.") : ""}
        </p>
        {rest}
        <FormFoot close={close} save={t("Rule")} />
      </form>
    </Dialog>
  );
}
