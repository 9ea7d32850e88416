import { useQuery } from "@tanstack/react-query";
import { Link, useNavigate } from "@tanstack/react-router";
import { asks, asksBy } from "../../api/asking";
import { client, ok, type Schemas } from "../../api/client";
import { t } from "../../words";
import { Dialog } from "../Dialog";
import { useDraft } from "../draft";
import { Choice, TextField } from "../Form";
import { capital, plural } from "../format";
import { Problem, Waiting } from "../Problem";

type Kind = Schemas["TaskIn"]["kind"];
type Plan = Schemas["TaskPlanOut"];

const KINDS: readonly (readonly [Kind, string])[] = [
  ["restart", t("Restart")],
  ["wake", t("Wake")],
  ["uninstall", t("Uninstall a product")],
  ["update", t("Update a product")],
  ["script", t("Run a reviewed script")],
];

interface TaskDialogProps {
  filter: string;
  /** A product to uninstall or update, where the dialog is opened from one. */
  product?: { id: number; name: string };
  /** What is done to the product. */
  kind?: "uninstall" | "update";
  close: () => void;
}

/** Ask for a task on the devices of a selection: what would run where is shown before anything is run. */
export function TaskDialog({ filter, product, kind: given = "uninstall", close }: TaskDialogProps) {
  const navigate = useNavigate();
  const { v, field, submit, wrong, rest, busy } = useDraft({
    kind: product ? given : ("restart" as Kind),
    chosen: product ? String(product.id) : "",
    script: "",
    why: "",
  });
  const { kind, chosen, script, why } = v;
  const ofProduct = kind === "uninstall" || kind === "update";
  const body = {
    kind,
    filter,
    assets: [],
    product: ofProduct && chosen ? Number(chosen) : null,
    script: kind === "script" && script ? Number(script) : null,
    why,
  };
  const ready = (!ofProduct || chosen !== "") && (kind !== "script" || script !== "");
  const plan = useQuery({
    ...asksBy("/api/tasks/plan", { body: { ...body, why: "" } }),
    enabled: ready,
  });
  const scripts = useQuery({
    ...asks("/api/scripts"),
    enabled: kind === "script",
  });
  const products = useQuery({
    ...asks("/api/software", { params: { query: { filter } } }),
    enabled: ofProduct && !product,
  });
  const run = submit(async () => {
    const made = await ok(client.POST("/api/tasks", { body: { ...body, expected: plan.data?.runs } }));
    await navigate({ to: "/tasks/$task", params: { task: String(made.id) }, search: {} });
  });
  const runs = plan.data?.runs ?? 0;
  return (
    <Dialog title={product ? `${capital(given)} ${product.name}` : t("Run a task")} close={close} wide>
      <form onSubmit={run}>
        <p className="dim mb-3 text-[13px]">
          {t("On the devices that answer")}{" "}
          {filter ? <span className="mono">{filter}</span> : t("nothing narrower than the whole register")}
          {t(". What is run on a device")} <b>{t("cannot be undone")}</b>
          {t("; the next reading tells whether it worked.")}{" "}
          <Link to="/tasks" search={{}} className="underline">
            {t("Earlier tasks")}
          </Link>
        </p>
        <div className="grid grid-cols-2 gap-x-3">
          {!product && <Choice label={t("What is to be done")} {...field("kind")} options={KINDS} />}
          {ofProduct && !product && (
            <Choice
              label={t("Product")}
              {...field("chosen")}
              options={[
                ["", products.data ? t("choose one of these devices’ products") : "reading …"],
                ...(products.data?.products ?? []).map((p): [string, string] => [
                  String(p.id),
                  `${p.name} (${p.devices})`,
                ]),
              ]}
              wrong={wrong("product")}
            />
          )}
          {kind === "script" && (
            <Choice
              label={t("Script")}
              {...field("script")}
              options={[
                ["", t("choose a script of the list")],
                ...(scripts.data ?? []).map((s): [string, string] => [
                  String(s.id),
                  `${s.name} (${s.platform})${s.reviewed_at ? "" : t(", not reviewed yet")}`,
                ]),
              ]}
            />
          )}
          <TextField label={t("Why")} {...field("why")} required hint={t("Stands in the audit trail.")} />
        </div>
        {!ready ? null : plan.error ? (
          <Problem error={plan.error} />
        ) : plan.data ? (
          <Planned plan={plan.data} />
        ) : (
          <Waiting what={t("Working out what would run where …")} />
        )}
        {plan.data?.needs_approval && (
          <p className="tag warn mt-2 !block !whitespace-normal !px-3 !py-2 !text-[13px]">
            {t(
              "This is for more devices than one person decides alone: it waits until a second person approves.",
            )}
          </p>
        )}
        {wrong("filter") && <p className="mt-2 text-[13px] font-semibold text-error">{wrong("filter")}</p>}
        {rest}
        <div className="mt-4 flex justify-end gap-2">
          <button type="button" className="btn" onClick={close}>
            {t("Leave")}
          </button>
          <button type="submit" className="btn btn-primary" disabled={busy || !ready || runs === 0}>
            {plan.data?.needs_approval
              ? t("Ask for approval")
              : t("Run on {{devices}}", { devices: plural(runs, "device") })}
          </button>
        </div>
      </form>
    </Dialog>
  );
}

function Planned({ plan }: { plan: Plan }) {
  const not = plan.devices.length - plan.runs;
  return (
    <section aria-label={t("What would run where")}>
      <p className="pb-1 text-[13px] font-semibold">
        {plan.runs
          ? t("Would run on {{devices}}", { devices: plural(plan.runs, "device") })
          : t("Would run on none of these")}
        {not > 0 && plan.runs > 0 ? t(", and not on {{not}}", { not }) : ""}
      </p>
      <div className="max-h-[38vh] overflow-auto rounded border border-base-300">
        <table className="grid-table">
          <tbody>
            {plan.devices.map((d) => (
              <tr key={d.asset}>
                <td className="mono whitespace-nowrap">{d.name}</td>
                <td className="mono dim whitespace-nowrap">{d.address}</td>
                <td className={d.refused ? "dim" : "mono break-all"}>{d.refused || d.shown}</td>
              </tr>
            ))}
          </tbody>
        </table>
      </div>
    </section>
  );
}
