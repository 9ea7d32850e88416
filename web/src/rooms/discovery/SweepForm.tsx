import { useQuery, useQueryClient } from "@tanstack/react-query";
import { useDeferredValue } from "react";
import { toast } from "sonner";
import { asksBy, under } from "../../api/asking";
import { ApiProblem, client, ok, type Schemas } from "../../api/client";
import { Dialog } from "../../parts/Dialog";
import { useDraft } from "../../parts/draft";
import { Choice, FormFoot, TextField } from "../../parts/Form";
import { count, plural } from "../../parts/format";
import { asOrganisation, OrganisationChoice } from "../../parts/Organisation";
import { Schedule } from "../../parts/Schedule";
import { t } from "../../words";

type Sweep = Schemas["SweepOut"];
type Credential = Schemas["CredentialOut"];

const PROTOCOLS: [string, string][] = [
  ["snmp", "SNMP"],
  ["ssh", "SSH"],
  ["winrm", t("WinRM")],
  ["tls", t("TLS certificates")],
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
  const { v, set, field, number, attempt, submit, wrong, rest } = useDraft({
    name: sweep?.name ?? start?.name ?? "",
    ranges: sweep?.ranges.join("\n") ?? start?.ranges ?? "",
    exclusions: sweep?.exclusions.join("\n") ?? "",
    protocols: sweep?.protocols ?? ["snmp", "ssh", "winrm", "tls"],
    // Until somebody chooses, a new sweep may use all; they may come after the form has opened.
    picked: sweep?.credentials ?? null,
    route: sweep?.route ?? start?.route ?? "direct",
    at_once: sweep?.at_once ?? 256,
    patience: sweep?.patience ?? 1.5,
    schedule: sweep?.schedule ?? "",
    organisation: String(sweep?.organisation ?? start?.organisation ?? ""),
    minutes: sweep?.minutes ? String(sweep.minutes) : "",
  });
  const { ranges, exclusions, protocols, organisation: whose } = v;
  const chosen = v.picked ?? credentials.map((c) => c.id);
  const queries = useQueryClient();
  const offered = credentials.filter(
    (c) => SIGN_INS.has(c.protocol) && (c.organisation === null || c.organisation === asOrganisation(whose)),
  );
  const asked = useDeferredValue({ ranges, exclusions });
  const check = useQuery({
    ...asksBy("/api/sweeps/check", {
      body: {
        ranges: lines(asked.ranges),
        exclusions: lines(asked.exclusions),
        organisation: asOrganisation(whose),
      },
    }),
    enabled: asked.ranges.trim() !== "",
    retry: false,
  });
  const faultOf = (name: string) =>
    wrong(name) ??
    (check.error instanceof ApiProblem && check.error.problem.field === name
      ? check.error.problem.detail
      : undefined);
  const done = async (message: string) => {
    await queries.invalidateQueries(under("sweeps"));
    toast.success(message);
    close();
  };
  const save = submit(async () => {
    const body = {
      ...v,
      ranges: lines(ranges),
      exclusions: lines(exclusions),
      credentials: chosen.filter((id) => offered.some((c) => c.id === id)),
      minutes: v.minutes ? Number(v.minutes) : null,
      organisation: asOrganisation(whose),
      version: sweep?.version ?? 0,
    };
    if (sweep) await ok(client.PUT("/api/sweeps/{number}", { params: { path: { number: sweep.id } }, body }));
    else await ok(client.POST("/api/sweeps", { body }));
    await done(t("“{{name}}” is saved.", { name: v.name }));
  });
  const drop = async () => {
    if (
      !sweep ||
      !window.confirm(
        t("Drop “{{name}}” and its runs? What it brought stays. This is final.", { name: sweep.name }),
      )
    )
      return;
    await attempt(async () => {
      await ok(client.DELETE("/api/sweeps/{number}", { params: { path: { number: sweep.id } } }));
      await done(t("“{{name}}” is dropped.", { name: sweep.name }));
    });
  };
  const toggle = <T,>(list: T[], item: T) =>
    list.includes(item) ? list.filter((x) => x !== item) : [...list, item];
  return (
    <Dialog title={sweep ? t("Change “{{name}}”", { name: sweep.name }) : t("New sweep")} close={close} wide>
      <form onSubmit={save}>
        <div className="grid gap-x-4 sm:grid-cols-2">
          <TextField
            label={t("Name")}
            required
            {...field("name")}
            hint={t("It stands beside every value the sweep brings.")}
          />
          <OrganisationChoice
            label={t("Made for")}
            {...field("organisation")}
            wrong={faultOf("organisation")}
            hint={t("What it finds belongs to them.")}
          />
        </div>
        <div className="grid gap-x-4 sm:grid-cols-2">
          <TextField
            label={t("Ranges")}
            mono
            rows={4}
            required
            {...field("ranges")}
            wrong={faultOf("ranges")}
            hint={
              check.data
                ? t("{{addresses}} from {{first}} to {{last}}, {{left_out}} left out", {
                    addresses: plural(check.data.probe, "address", "addresses"),
                    first: check.data.first,
                    last: check.data.last,
                    left_out: count(check.data.left_out),
                  })
                : t("One a line: 10.60.4.0/24, 10.60.5.20-10.60.5.90, or an address.")
            }
          />
          <TextField
            label={t("Exclusions")}
            mono
            rows={4}
            {...field("exclusions")}
            wrong={faultOf("exclusions")}
            hint={t("They always win. Networks marked “never probe” are left out anyway.")}
          />
        </div>
        <div className="grid gap-x-4 sm:grid-cols-2">
          <fieldset className="mb-3">
            <legend className="mb-1 text-[13px] font-semibold">{t("Credentials it may use")}</legend>
            {offered.map((c) => (
              <label key={c.id} className="flex items-center gap-2 py-0.5 text-[13px]">
                <input
                  type="checkbox"
                  className="checkbox checkbox-sm"
                  checked={chosen.includes(c.id)}
                  onChange={() => set({ picked: toggle(chosen, c.id) })}
                />
                <span className="mono">{c.name}</span>
              </label>
            ))}
            {offered.length === 0 && (
              <p className="dim text-[13px]">
                {t("None is stored for these devices yet; say whom the sweep is made for.")}
              </p>
            )}
          </fieldset>
          <fieldset className="mb-3">
            <legend className="mb-1 text-[13px] font-semibold">{t("Protocols")}</legend>
            {PROTOCOLS.map(([key, label]) => (
              <label key={key} className="flex items-center gap-2 py-0.5 text-[13px]">
                <input
                  type="checkbox"
                  className="checkbox checkbox-sm"
                  checked={protocols.includes(key)}
                  onChange={() => set({ protocols: toggle(protocols, key) })}
                />
                {label}
              </label>
            ))}
          </fieldset>
        </div>
        <div className="grid gap-x-4 sm:grid-cols-3">
          <Choice
            label={t("Route")}
            {...field("route")}
            hint={t("The lab is the simulated network.")}
            options={[
              ["direct", "direct"],
              ["lab", "lab"],
            ]}
          />
          <TextField label={t("Devices at once")} {...number("at_once")} least={1} most={1024} />
          <TextField
            label={t("Wait for an answer, seconds")}
            {...number("patience")}
            least={0.1}
            most={30}
            step={0.1}
          />
        </div>
        <div className="grid gap-x-4 sm:grid-cols-3">
          <div className="sm:col-span-2">
            <Schedule
              label={t("Starts")}
              none={t("by hand")}
              rule={v.schedule}
              set={(schedule) => set({ schedule })}
              wrong={wrong("schedule")}
            />
          </div>
          <TextField label={t("Stop after, minutes")} type="number" {...field("minutes")} />
        </div>
        {rest}
        <FormFoot close={close} drop={sweep ? drop : undefined} />
      </form>
    </Dialog>
  );
}
