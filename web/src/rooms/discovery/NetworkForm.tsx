import { useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { toast } from "sonner";
import { ApiProblem, client, ok } from "../../api/client";
import { Dialog, Labelled } from "../../parts/Dialog";
import { Problem } from "../../parts/Problem";

/** A network of the company: which place it serves, how gently it is probed, or that it never is. */
export function NetworkForm({ close }: { close: () => void }) {
  const [values, setValues] = useState({
    range: "",
    name: "",
    place: "",
    never_probe: false,
    at_once: 256,
    pause_ms: 0,
  });
  const [error, setError] = useState<unknown>(null);
  const queries = useQueryClient();
  const wrong = (field: string) =>
    error instanceof ApiProblem && error.problem.field === field ? error.problem.detail : undefined;
  const save = async (event: React.FormEvent) => {
    event.preventDefault();
    setError(null);
    try {
      await ok(client.POST("/api/networks", { body: values }));
      await queries.invalidateQueries({ queryKey: ["networks"] });
      toast.success(`${values.range} is noted.`);
      close();
    } catch (refused) {
      setError(refused);
    }
  };
  return (
    <Dialog title="New network" close={close}>
      <form onSubmit={save}>
        <div className="grid grid-cols-2 gap-x-4">
          <Labelled label="Range" wrong={wrong("range")}>
            {(id) => (
              <input
                id={id}
                className="input mono w-full"
                required
                placeholder="10.60.4.0/24"
                value={values.range}
                onChange={(e) => setValues({ ...values, range: e.target.value })}
              />
            )}
          </Labelled>
          <Labelled label="Name">
            {(id) => (
              <input
                id={id}
                className="input w-full"
                required
                value={values.name}
                onChange={(e) => setValues({ ...values, name: e.target.value })}
              />
            )}
          </Labelled>
          <Labelled label="Place" hint="Devices met here are held to stand at this place.">
            {(id) => (
              <input
                id={id}
                className="input w-full"
                value={values.place}
                onChange={(e) => setValues({ ...values, place: e.target.value })}
              />
            )}
          </Labelled>
          <Labelled label="Devices at once">
            {(id) => (
              <input
                id={id}
                type="number"
                min={1}
                max={1024}
                className="input w-full"
                value={values.at_once}
                onChange={(e) => setValues({ ...values, at_once: Number(e.target.value) })}
              />
            )}
          </Labelled>
        </div>
        <label className="flex items-center gap-2 text-[13px]">
          <input
            type="checkbox"
            className="checkbox checkbox-sm"
            checked={values.never_probe}
            onChange={(e) => setValues({ ...values, never_probe: e.target.checked })}
          />
          Never probe it, whatever a sweep's ranges say
        </label>
        {error !== null && !wrong("range") && <Problem error={error} />}
        <div className="mt-4 flex justify-end gap-2">
          <button type="button" className="btn" onClick={close}>
            Leave
          </button>
          <button type="submit" className="btn btn-primary">
            Save
          </button>
        </div>
      </form>
    </Dialog>
  );
}
