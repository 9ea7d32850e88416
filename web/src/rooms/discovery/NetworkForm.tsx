import { useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { toast } from "sonner";
import { client, ok, type Schemas } from "../../api/client";
import { Dialog } from "../../parts/Dialog";
import { FormFoot, TextField, Tick, useFaults } from "../../parts/Form";
import { asOrganisation, OrganisationChoice } from "../../parts/Organisation";
import { Schedule } from "../../parts/Schedule";

/** A network of the company: which place it serves, how gently it is probed, or that it never is. */
export function NetworkForm({
  network,
  close,
}: {
  network: Schemas["NetworkOut"] | null;
  close: () => void;
}) {
  const [values, setValues] = useState({
    range: network?.range ?? "",
    name: network?.name ?? "",
    place: network?.place ?? "",
    never_probe: network?.never_probe ?? false,
    at_once: network?.at_once ?? 256,
    pause_ms: network?.pause_ms ?? 0,
    quiet: network?.quiet ?? "",
    quiet_minutes: network?.quiet_minutes ?? 0,
    organisation: network?.organisation ? String(network.organisation) : "",
  });
  const { setError, wrong, rest } = useFaults();
  const queries = useQueryClient();
  const save = async (event: React.FormEvent) => {
    event.preventDefault();
    setError(null);
    try {
      const body = { ...values, organisation: asOrganisation(values.organisation) };
      if (network)
        await ok(client.PUT("/api/networks/{number}", { params: { path: { number: network.id } }, body }));
      else await ok(client.POST("/api/networks", { body }));
      await queries.invalidateQueries({ queryKey: ["networks"] });
      toast.success(`${values.range} is noted.`);
      close();
    } catch (refused) {
      setError(refused);
    }
  };
  return (
    <Dialog title={network ? `Change ${network.range}` : "New network"} close={close}>
      <form onSubmit={save}>
        <div className="grid grid-cols-2 gap-x-4">
          <TextField
            label="Range"
            mono
            required
            placeholder="10.60.4.0/24"
            value={values.range}
            set={(range) => setValues({ ...values, range })}
            wrong={wrong("range")}
          />
          <TextField
            label="Name"
            required
            value={values.name}
            set={(name) => setValues({ ...values, name })}
          />
          <TextField
            label="Place"
            hint="Devices met here are held to stand at this place."
            value={values.place}
            set={(place) => setValues({ ...values, place })}
          />
          <TextField
            label="Devices at once"
            type="number"
            value={String(values.at_once)}
            set={(text) => setValues({ ...values, at_once: Number(text) })}
            wrong={wrong("at_once")}
          />
          <Schedule
            label="Maintenance begins"
            none="never"
            rule={values.quiet}
            set={(quiet) => setValues({ ...values, quiet })}
            wrong={wrong("quiet")}
          />
          <TextField
            label="and lasts, minutes"
            type="number"
            value={values.quiet_minutes ? String(values.quiet_minutes) : ""}
            set={(text) => setValues({ ...values, quiet_minutes: Number(text) })}
            wrong={wrong("quiet_minutes")}
            hint="Nothing is probed there meanwhile."
          />
          <OrganisationChoice
            label="Belongs to"
            value={values.organisation}
            set={(organisation) => setValues({ ...values, organisation })}
            wrong={wrong("organisation")}
          />
        </div>
        <Tick
          label="Never probe it, whatever a sweep's ranges say"
          on={values.never_probe}
          set={(never_probe) => setValues({ ...values, never_probe })}
        />
        {rest}
        <FormFoot close={close} />
      </form>
    </Dialog>
  );
}
