import { useQueryClient } from "@tanstack/react-query";
import { toast } from "sonner";
import { under } from "../../api/asking";
import { client, ok, type Schemas } from "../../api/client";
import { OfferedField } from "../../parts/ask/OfferedField";
import { Dialog } from "../../parts/Dialog";
import { useDraft } from "../../parts/draft";
import { FormFoot, TextField, Tick } from "../../parts/Form";
import { asOrganisation, OrganisationChoice } from "../../parts/Organisation";
import { Schedule } from "../../parts/Schedule";
import { t } from "../../words";

/** A network of the company: which place it serves, how gently it is probed, or that it never is. */
export function NetworkForm({
  network,
  close,
}: {
  network: Schemas["NetworkOut"] | null;
  close: () => void;
}) {
  const {
    v: values,
    set,
    field,
    number,
    tick,
    submit,
    wrong,
    rest,
  } = useDraft({
    range: network?.range ?? "",
    name: network?.name ?? "",
    place: network?.place ?? "",
    never_probe: network?.never_probe ?? false,
    outside: network?.outside ?? false,
    at_once: network?.at_once ?? 256,
    pause_ms: network?.pause_ms ?? 0,
    quiet: network?.quiet ?? "",
    quiet_minutes: network?.quiet_minutes ?? 0,
    organisation: network?.organisation ? String(network.organisation) : "",
  });
  const queries = useQueryClient();
  const save = submit(async () => {
    const body = { ...values, organisation: asOrganisation(values.organisation) };
    if (network)
      await ok(client.PUT("/api/networks/{number}", { params: { path: { number: network.id } }, body }));
    else await ok(client.POST("/api/networks", { body }));
    await queries.invalidateQueries(under("networks"));
    toast.success(t("{{range}} is noted.", { range: values.range }));
    close();
  });
  return (
    <Dialog
      title={network ? t("Change {{range}}", { range: network.range }) : t("New network")}
      close={close}
    >
      <form onSubmit={save}>
        <div className="grid grid-cols-2 gap-x-4">
          <TextField label={t("Range")} mono required placeholder="10.60.4.0/24" {...field("range")} />
          <TextField label={t("Name")} required {...field("name")} />
          <OfferedField
            of="place"
            label={t("Place")}
            hint={t("Devices met here are held to stand at this place.")}
            {...field("place")}
          />
          <TextField label={t("Devices at once")} {...number("at_once")} />
          <Schedule
            label={t("Maintenance begins")}
            none={t("never")}
            rule={values.quiet}
            set={(quiet) => set({ quiet })}
            wrong={wrong("quiet")}
          />
          <TextField
            label={t("and lasts, minutes")}
            type="number"
            value={values.quiet_minutes ? String(values.quiet_minutes) : ""}
            set={(text) => set({ quiet_minutes: Number(text) })}
            wrong={wrong("quiet_minutes")}
            hint={t("Nothing is probed there meanwhile.")}
          />
          <OrganisationChoice label={t("Belongs to")} {...field("organisation")} />
        </div>
        <Tick label={t("Never probe it, whatever a sweep's ranges say")} {...tick("never_probe")} />
        <Tick label={t("It can be reached from outside the company")} {...tick("outside")} />
        {rest}
        <FormFoot close={close} />
      </form>
    </Dialog>
  );
}
