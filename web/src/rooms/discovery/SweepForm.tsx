import { useQuery, useQueryClient } from "@tanstack/react-query";
import { useDeferredValue, useState } from "react";
import { toast } from "sonner";
import { ApiProblem, client, ok, type Schemas } from "../../api/client";
import { Dialog, Labelled } from "../../parts/Dialog";
import { FormFoot, TextField } from "../../parts/Form";
import { count, plural } from "../../parts/format";
import { asOrganisation, OrganisationChoice } from "../../parts/Organisation";
import { Problem } from "../../parts/Problem";
import { Schedule } from "../../parts/Schedule";

type Sweep = Schemas["SweepOut"];
type Credential = Schemas["CredentialOut"];

const PROTOCOLS: [string, string][] = [
  ["snmp", "SNMP"],
  ["ssh", "SSH"],
  ["winrm", "WinRM"],
  ["tls", "TLS certificates"],
];

const SIGN_INS = new Set(["snmp-v1", "snmp-v2c", "snmp-v3", "ssh", "winrm"]);

function lines(text: string): string[] {
  return text
    .split(/[\n,]/)
    .map((l) => l.trim())
    .filter(Boolean);
}

/** A sweep's settings; what the ranges come to is checked while they are typed. */
export function SweepForm({
  sweep,
  start,
  credentials,
  close,
}: {
  sweep: Sweep | null;
  start?: { name: string; ranges: string; route: string; organisation: number | null };
  credentials: Credential[];
  close: () => void;
}) {
  const [name, setName] = useState(sweep?.name ?? start?.name ?? "");
  const [ranges, setRanges] = useState(sweep?.ranges.join("\n") ?? start?.ranges ?? "");
  const [exclusions, setExclusions] = useState(sweep?.exclusions.join("\n") ?? "");
  const [protocols, setProtocols] = useState(sweep?.protocols ?? ["snmp", "ssh", "winrm", "tls"]);
  // Until somebody chooses, a new sweep may use all; they may come after the form has opened.
  const [picked, setPicked] = useState(sweep?.credentials);
  const chosen = picked ?? credentials.map((c) => c.id);
  const [route, setRoute] = useState(sweep?.route ?? start?.route ?? "direct");
  const [atOnce, setAtOnce] = useState(sweep?.at_once ?? 256);
  const [patience, setPatience] = useState(sweep?.patience ?? 1.5);
  const [schedule, setSchedule] = useState(sweep?.schedule ?? "");
  const [whose, setWhose] = useState(String(sweep?.organisation ?? start?.organisation ?? ""));
  const [minutes, setMinutes] = useState(sweep?.minutes ? String(sweep.minutes) : "");
  const [error, setError] = useState<unknown>(null);
  const queries = useQueryClient();
  const offered = credentials.filter(
    (c) => SIGN_INS.has(c.protocol) && (c.organisation === null || c.organisation === asOrganisation(whose)),
  );
  const asked = useDeferredValue({ ranges, exclusions });
  const check = useQuery({
    queryKey: ["ranges", asked.ranges, asked.exclusions, whose],
    queryFn: () =>
      ok(
        client.POST("/api/sweeps/check", {
          body: {
            ranges: lines(asked.ranges),
            exclusions: lines(asked.exclusions),
            organisation: asOrganisation(whose),
          },
        }),
      ),
    enabled: asked.ranges.trim() !== "",
    retry: false,
  });
  const faultOf = (field: string) => {
    for (const found of [error, check.error]) {
      if (found instanceof ApiProblem && found.problem.field === field) return found.problem.detail;
    }
    return undefined;
  };
  const placed = error instanceof ApiProblem && error.problem.field !== undefined;
  const done = async (message: string) => {
    await queries.invalidateQueries({ queryKey: ["sweeps"] });
    toast.success(message);
    close();
  };
  const save = async (event: React.FormEvent) => {
    event.preventDefault();
    setError(null);
    const body = {
      name,
      ranges: lines(ranges),
      exclusions: lines(exclusions),
      protocols,
      credentials: chosen.filter((id) => offered.some((c) => c.id === id)),
      route,
      at_once: atOnce,
      patience,
      schedule,
      minutes: minutes ? Number(minutes) : null,
      organisation: asOrganisation(whose),
      version: sweep?.version ?? 0,
    };
    try {
      if (sweep)
        await ok(client.PUT("/api/sweeps/{number}", { params: { path: { number: sweep.id } }, body }));
      else await ok(client.POST("/api/sweeps", { body }));
      await done(`“${name}” is saved.`);
    } catch (refused) {
      setError(refused);
    }
  };
  const drop = async () => {
    if (!sweep || !window.confirm(`Drop “${sweep.name}” and its runs? What it brought stays. This is final.`))
      return;
    try {
      await ok(client.DELETE("/api/sweeps/{number}", { params: { path: { number: sweep.id } } }));
      await done(`“${sweep.name}” is dropped.`);
    } catch (refused) {
      setError(refused);
    }
  };
  const toggle = <T,>(list: T[], item: T) =>
    list.includes(item) ? list.filter((x) => x !== item) : [...list, item];
  return (
    <Dialog title={sweep ? `Change “${sweep.name}”` : "New sweep"} close={close} wide>
      <form onSubmit={save}>
        <div className="grid gap-x-4 sm:grid-cols-2">
          <TextField
            label="Name"
            required
            value={name}
            set={setName}
            wrong={faultOf("name")}
            hint="It stands beside every value the sweep brings."
          />
          <OrganisationChoice
            label="Made for"
            value={whose}
            set={setWhose}
            wrong={faultOf("organisation")}
            hint="What it finds belongs to them."
          />
        </div>
        <div className="grid gap-x-4 sm:grid-cols-2">
          <Labelled
            label="Ranges"
            wrong={faultOf("ranges")}
            hint={
              check.data
                ? `${plural(check.data.probe, "address", "addresses")} from ${check.data.first} to ${check.data.last}, ${count(check.data.left_out)} left out`
                : "One a line: 10.60.4.0/24, 10.60.5.20-10.60.5.90, or an address."
            }
          >
            {(id) => (
              <textarea
                id={id}
                rows={4}
                className="textarea mono w-full"
                required
                value={ranges}
                onChange={(e) => setRanges(e.target.value)}
              />
            )}
          </Labelled>
          <Labelled
            label="Exclusions"
            wrong={faultOf("exclusions")}
            hint="They always win. Networks marked “never probe” are left out anyway."
          >
            {(id) => (
              <textarea
                id={id}
                rows={4}
                className="textarea mono w-full"
                value={exclusions}
                onChange={(e) => setExclusions(e.target.value)}
              />
            )}
          </Labelled>
        </div>
        <div className="grid gap-x-4 sm:grid-cols-2">
          <fieldset className="mb-3">
            <legend className="mb-1 text-[13px] font-semibold">Credentials it may use</legend>
            {offered.map((c) => (
              <label key={c.id} className="flex items-center gap-2 py-0.5 text-[13px]">
                <input
                  type="checkbox"
                  className="checkbox checkbox-sm"
                  checked={chosen.includes(c.id)}
                  onChange={() => setPicked(toggle(chosen, c.id))}
                />
                <span className="mono">{c.name}</span>
              </label>
            ))}
            {offered.length === 0 && (
              <p className="dim text-[13px]">
                None is stored for these devices yet; say whom the sweep is made for.
              </p>
            )}
          </fieldset>
          <fieldset className="mb-3">
            <legend className="mb-1 text-[13px] font-semibold">Protocols</legend>
            {PROTOCOLS.map(([key, label]) => (
              <label key={key} className="flex items-center gap-2 py-0.5 text-[13px]">
                <input
                  type="checkbox"
                  className="checkbox checkbox-sm"
                  checked={protocols.includes(key)}
                  onChange={() => setProtocols(toggle(protocols, key))}
                />
                {label}
              </label>
            ))}
          </fieldset>
        </div>
        <div className="grid gap-x-4 sm:grid-cols-3">
          <Labelled label="Route" wrong={faultOf("route")} hint="The lab is the simulated network.">
            {(id) => (
              <select
                id={id}
                className="select w-full"
                value={route}
                onChange={(e) => setRoute(e.target.value)}
              >
                <option value="direct">direct</option>
                <option value="lab">lab</option>
              </select>
            )}
          </Labelled>
          <Labelled label="Devices at once" wrong={faultOf("at_once")}>
            {(id) => (
              <input
                id={id}
                type="number"
                min={1}
                max={1024}
                className="input w-full"
                value={atOnce}
                onChange={(e) => setAtOnce(Number(e.target.value))}
              />
            )}
          </Labelled>
          <Labelled label="Wait for an answer, seconds" wrong={faultOf("patience")}>
            {(id) => (
              <input
                id={id}
                type="number"
                step="0.1"
                min={0.1}
                max={30}
                className="input w-full"
                value={patience}
                onChange={(e) => setPatience(Number(e.target.value))}
              />
            )}
          </Labelled>
        </div>
        <div className="grid gap-x-4 sm:grid-cols-3">
          <div className="sm:col-span-2">
            <Schedule
              label="Starts"
              none="by hand"
              rule={schedule}
              set={setSchedule}
              wrong={faultOf("schedule")}
            />
          </div>
          <TextField
            label="Stop after, minutes"
            type="number"
            value={minutes}
            set={setMinutes}
            wrong={faultOf("minutes")}
          />
        </div>
        {error !== null && !placed && <Problem error={error} />}
        <FormFoot close={close} drop={sweep ? drop : undefined} />
      </form>
    </Dialog>
  );
}
