import { client, ok, type Schemas } from "../../api/client";
import { Dialog } from "../../parts/Dialog";
import { useDraft } from "../../parts/draft";
import { Choice, FormFoot, TextField } from "../../parts/Form";
import { plural } from "../../parts/format";
import { t } from "../../words";

type Says = Schemas["SaidIn"]["says"];

/** Say of a product on devices: exempt, disputed, covered by one licence; or take back what was said. */
export function SayDialog(props: {
  product: string;
  assets: number[];
  licences: Schemas["LicenceName"][];
  close: () => void;
}) {
  const { v, field, save, rest } = useDraft(
    { says: "exempt" as Says, licence: String(props.licences[0]?.id ?? ""), why: "", until: "" },
    { anew: "licences", close: props.close },
  );
  const { says, licence, why, until } = v;
  const submit = save(async () => {
    await ok(
      client.POST("/api/licences/said", {
        body: {
          product: props.product,
          assets: props.assets,
          says,
          why,
          until: until || null,
          licence: says === "licence" ? Number(licence) : null,
        },
      }),
    );
    return t("Said, and reckoned anew.");
  });
  return (
    <Dialog
      title={t("{{product}} on {{devices}}", {
        product: props.product,
        devices: plural(props.assets.length, "device"),
      })}
      close={props.close}
    >
      <form onSubmit={submit}>
        <Choice
          label={t("It is")}
          {...field("says")}
          options={[
            ["exempt", t("exempt: it needs no licence")],
            ["disputed", t("disputed: it counts as unlicensed")],
            ["licence", t("covered by a licence I choose")],
            ["", t("as Tarn reckons it: take back what was said")],
          ]}
        />
        {says === "licence" && (
          <Choice
            label={t("Licence")}
            {...field("licence")}
            options={props.licences.map((l): [string, string] => [String(l.id), l.name])}
          />
        )}
        {says !== "" && (
          <>
            <TextField
              label={t("Why")}
              {...field("why")}
              placeholder={t("test bench")}
              hint={t("An auditor will ask.")}
            />
            <TextField
              label={t("Until")}
              type="date"
              {...field("until")}
              hint={t("The last day it holds; empty: until it is taken back.")}
            />
          </>
        )}
        {rest}
        <FormFoot close={props.close} />
      </form>
    </Dialog>
  );
}
