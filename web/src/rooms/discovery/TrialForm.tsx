import { useQuery } from "@tanstack/react-query";
import { useNavigate } from "@tanstack/react-router";
import { asks } from "../../api/asking";
import { client, ok, type Schemas } from "../../api/client";
import { Dialog } from "../../parts/Dialog";
import { useDraft } from "../../parts/draft";
import { Choice, FormFoot, TextField } from "../../parts/Form";
import { t } from "../../words";

type Credential = Schemas["CredentialOut"];

/** Asks where a credential is to be tried. */
export function TrialForm({
  credential,
  route,
  address: given,
  close,
}: {
  credential: Credential;
  route: string;
  address?: string;
  close: () => void;
}) {
  const { v, field, submit, wrong, rest } = useDraft({ address: given ?? "", by: route, from: "" });
  const { address, by, from } = v;
  const outposts = useQuery(asks("/api/outposts"));
  const navigate = useNavigate();
  const start = submit(async () => {
    const made = await ok(
      client.POST("/api/trials", {
        body: { credential: credential.id, address, route: by, outpost: from ? Number(from) : null },
      }),
    );
    await navigate({ to: "/discovery/trials/$trial", params: { trial: String(made.id) }, search: {} });
  });
  return (
    <Dialog title={t("Try “{{name}}”", { name: credential.name })} close={close}>
      <form onSubmit={start}>
        <p className="dim mb-3 text-[13px]">
          {t(
            "Eight steps, one after the other, show how far it gets at one device and what is wrong where it stops. Nothing is stored of what is read.",
          )}
        </p>
        <div className="grid grid-cols-2 gap-x-4">
          <TextField label={t("Address")} mono required {...field("address")} />
          <Choice
            label={t("Route")}
            {...field("by")}
            options={[
              ["direct", "direct"],
              ["lab", "lab"],
            ]}
            wrong={wrong("route")}
          />
          {outposts.data && outposts.data.length > 0 && (
            <div className="col-span-2">
              <Choice
                label={t("Tried from")}
                {...field("from")}
                options={[
                  ["", t("where the address is reached from")],
                  ...outposts.data.map((o): [string, string] => [String(o.id), o.name]),
                ]}
                wrong={wrong("outpost")}
              />
            </div>
          )}
        </div>
        {rest}
        <FormFoot close={close} save={t("Try it")} />
      </form>
    </Dialog>
  );
}
