import { useState } from "react";
import { client, ok, type Schemas } from "../../api/client";
import { Dialog } from "../../parts/Dialog";
import { Choice, FormFoot, TextField } from "../../parts/Form";
import { plural } from "../../parts/format";
import { useSaving } from "../../parts/saving";

type Says = Schemas["SaidIn"]["says"];

/** Say of a product on devices: exempt, disputed, covered by one licence; or take back what was said. */
export function SayDialog(props: {
  product: string;
  assets: number[];
  licences: Schemas["LicenceName"][];
  close: () => void;
}) {
  const [says, setSays] = useState<Says>("exempt");
  const [licence, setLicence] = useState(String(props.licences[0]?.id ?? ""));
  const [why, setWhy] = useState("");
  const [until, setUntil] = useState("");
  const { save, wrong, rest } = useSaving("licences", props.close);
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
    return "Said, and reckoned anew.";
  });
  return (
    <Dialog title={`${props.product} on ${plural(props.assets.length, "device")}`} close={props.close}>
      <form onSubmit={submit}>
        <Choice
          label="It is"
          value={says}
          set={setSays}
          wrong={wrong("says")}
          options={[
            ["exempt", "exempt: it needs no licence"],
            ["disputed", "disputed: it counts as unlicensed"],
            ["licence", "covered by a licence I choose"],
            ["", "as Tarn reckons it: take back what was said"],
          ]}
        />
        {says === "licence" && (
          <Choice
            label="Licence"
            value={licence}
            set={setLicence}
            wrong={wrong("licence")}
            options={props.licences.map((l): [string, string] => [String(l.id), l.name])}
          />
        )}
        {says !== "" && (
          <>
            <TextField
              label="Why"
              value={why}
              set={setWhy}
              wrong={wrong("why")}
              placeholder="test bench"
              hint="An auditor will ask."
            />
            <TextField
              label="Until"
              type="date"
              value={until}
              set={setUntil}
              wrong={wrong("until")}
              hint="The last day it holds; empty: until it is taken back."
            />
          </>
        )}
        {rest}
        <FormFoot close={props.close} />
      </form>
    </Dialog>
  );
}
