import { useQuery, useQueryClient } from "@tanstack/react-query";
import { Link } from "@tanstack/react-router";
import { useState } from "react";
import { toast } from "sonner";
import { ApiProblem, client, getJson, ok } from "../../api/client";
import type { Intake, IntakeDevice, IntakeGroup } from "../../api/types";
import { Dialog, Labelled } from "../../parts/Dialog";
import { useDial } from "../../parts/dial";
import { capital, plural, shortDay } from "../../parts/format";
import { useMay } from "../../parts/me";
import { Empty, Problem, Waiting } from "../../parts/Problem";
import { undoToast } from "../../parts/undo";
import { IntakeRules } from "./IntakeRules";
import { UndecidedCase } from "./UndecidedCase";

/** Where found devices wait until someone decides. */
export function IntakePage() {
  const queries = useQueryClient();
  const { past, turn } = useDial();
  const intake = useQuery({ queryKey: ["intake"], queryFn: () => getJson<Intake>("/api/intake") });
  const aside = useQuery({
    queryKey: ["set-aside"],
    queryFn: () => getJson<IntakeDevice[]>("/api/set-aside"),
  });
  const [reasonFor, setReasonFor] = useState<IntakeDevice[] | null>(null);
  const [showAside, setShowAside] = useState(false);
  const [showRules, setShowRules] = useState(false);
  const may = useMay("decide");
  const mayPlan = useMay("plan");
  const refresh = () => void queries.invalidateQueries();
  const decide = async (devices: IntakeDevice[], facts: Record<string, string | null>, said: string) => {
    try {
      const done = await ok(
        client.POST("/api/decide", { body: { assets: devices.map((d) => d.id), ...facts } }),
      );
      undoToast(said, done.entry, refresh);
      refresh();
    } catch (error) {
      toast.error(error instanceof ApiProblem ? error.problem.detail : "Nothing was decided.");
    }
  };
  if (intake.error) {
    return (
      <div className="p-6">
        <Problem error={intake.error} retry={() => void intake.refetch()} />
      </div>
    );
  }
  if (!intake.data) return <Waiting what="Reading what waits …" />;
  const { groups, total, shown, undecided } = intake.data;
  const earliest = groups.map((g) => g.first_seen).sort()[0];
  const mayNow = may && !past;
  return (
    <div className="mx-auto w-full max-w-[1280px] px-4 pb-10">
      <div className="flex flex-wrap items-center gap-x-4 gap-y-2 py-3.5">
        <h1>Intake</h1>
        <span className="dim text-[13.5px]">
          {total > 0
            ? `${plural(total, "device")} in ${plural(groups.length, "group")}, found since ${earliest ? shortDay(earliest) : ""}. Nothing is tracked until someone says so.`
            : "Nothing waits."}
        </span>
        <span className="flex-1" />
        {(aside.data?.length ?? 0) > 0 && (
          <button
            type="button"
            className="link-quiet text-[13px] font-semibold"
            onClick={() => setShowAside(!showAside)}
          >
            Set aside earlier: {aside.data?.length}
          </button>
        )}
        <button
          type="button"
          className="link-quiet text-[13px] font-semibold"
          aria-expanded={showRules}
          onClick={() => setShowRules(!showRules)}
        >
          Rules
        </button>
        <Link to="/discovery" search={{}} className="link-quiet text-[13px] font-semibold">
          Sweeps
        </Link>
      </div>
      {showRules && <IntakeRules may={mayPlan && !past} />}
      {past && (
        <p className="tag warn mb-3 !block !py-2 !whitespace-normal">
          The intake shows what waits now. Nothing can be decided while the dial is turned back.{" "}
          <button type="button" className="link-quiet font-semibold" onClick={() => turn(null)}>
            Back to now
          </button>
        </p>
      )}
      {shown < total && (
        <p className="tag mb-3 !block !py-2 !whitespace-normal">
          The first {shown} of {total} are shown, by name; once some are decided the next come.
        </p>
      )}
      {undecided.map((u) => (
        <UndecidedCase key={u.document} one={u} may={mayNow} done={refresh} />
      ))}
      <div className="grid gap-2.5">
        {groups.map((g) => (
          <Group
            key={[g.kind, g.manufacturer, g.model, g.place].join("|")}
            group={g}
            may={mayNow}
            adopt={(devices, kind) =>
              void decide(
                devices,
                { standing: "register", ...(kind ? { kind } : {}) },
                `${plural(devices.length, "device")} adopted into the register.`,
              )
            }
            setAside={setReasonFor}
          />
        ))}
      </div>
      {total === 0 && undecided.length === 0 && (
        <div className="sheet">
          <Empty title="Everything found has been decided.">
            <Link to="/discovery" search={{}} className="link-quiet">
              Start a sweep
            </Link>{" "}
            to see whether something new is on the network.
          </Empty>
        </div>
      )}
      {showAside && (
        <section className="sheet mt-4 overflow-x-auto" aria-label="Set aside">
          <table className="grid-table">
            <thead>
              <tr>
                <th>Name</th>
                <th>Kind</th>
                <th>Address</th>
                <th>Why it was set aside</th>
                <th>
                  <span className="sr-only">More</span>
                </th>
              </tr>
            </thead>
            <tbody>
              {aside.data?.map((d) => (
                <tr key={d.id}>
                  <td className="mono">
                    <Link
                      to="/assets/$asset"
                      params={{ asset: String(d.id) }}
                      search={{}}
                      className="link-quiet"
                    >
                      {d.name ?? d.number}
                    </Link>
                  </td>
                  <td>{capital(d.kind ?? "device")}</td>
                  <td className="mono">{d.address}</td>
                  <td>{d.aside_reason}</td>
                  <td className="text-right">
                    {mayNow && (
                      <button
                        type="button"
                        className="link-quiet font-semibold"
                        onClick={() =>
                          void decide([d], { standing: "intake", aside_reason: null }, "Back at intake.")
                        }
                      >
                        Bring back
                      </button>
                    )}
                  </td>
                </tr>
              ))}
            </tbody>
          </table>
        </section>
      )}
      {reasonFor && (
        <ReasonDialog
          devices={reasonFor}
          close={() => setReasonFor(null)}
          confirm={(reason) => {
            void decide(
              reasonFor,
              { standing: "set aside", aside_reason: reason },
              `${plural(reasonFor.length, "device")} set aside.`,
            );
            setReasonFor(null);
          }}
        />
      )}
    </div>
  );
}

interface GroupProps {
  group: IntakeGroup;
  may: boolean;
  adopt: (devices: IntakeDevice[], kind: string | null) => void;
  setAside: (devices: IntakeDevice[]) => void;
}

const UNSURE = 60;

function Group({ group, may, adopt, setAside }: GroupProps) {
  const [open, setOpen] = useState(true);
  const [left, setLeft] = useState<Set<number>>(new Set());
  const chosen = group.devices.filter((d) => !left.has(d.id));
  const first = group.devices[0];
  const many = group.devices.length > 1;
  const title = many
    ? `${capital(group.kind === "device" ? "devices of an unknown kind" : plurals(group.kind))}${group.place ? ` at ${group.place}` : ""}`
    : `${first?.name ?? first?.address ?? "A device"}`;
  const label = many
    ? [title, group.manufacturer, group.model].filter(Boolean).join(" ")
    : `${title} ${first?.number}`;
  const known = group.sure > 0;
  return (
    <section className="sheet overflow-hidden" aria-label={label}>
      <div className="grid items-center gap-x-3 gap-y-2 px-3.5 py-2.5 md:grid-cols-[40px_1.2fr_1.5fr_170px_auto]">
        <b className="text-[19px] text-primary md:text-right">{group.devices.length}</b>
        <button type="button" className="text-left" aria-expanded={open} onClick={() => setOpen(!open)}>
          <b>{title}</b>
          <span className="dim block text-[12.5px]">
            first seen {shortDay(group.first_seen)}
            {many
              ? `, told apart by ${first?.serial ? "serial number" : first?.mac ? "hardware address" : "name"}`
              : ""}
          </span>
        </button>
        <p className="text-[13px]">
          Kind <b>{capital(group.kind)}</b>
          {group.manufacturer && (
            <>
              {" "}
              · maker <b>{group.manufacturer}</b>
            </>
          )}
          {group.model && (
            <>
              {" "}
              · model <b>{group.model}</b>
            </>
          )}
          {group.place && (
            <>
              {" "}
              · place <b>{group.place}</b>
            </>
          )}
        </p>
        {known ? (
          <Sureness percent={group.sure} />
        ) : (
          <span className="dim text-[12.5px]">only other systems know it</span>
        )}
        {may ? (
          <div className="flex gap-1.5">
            <button
              type="button"
              className="btn btn-primary btn-sm"
              disabled={chosen.length === 0}
              onClick={() => {
                adopt(chosen, group.kind);
                setLeft(new Set());
              }}
            >
              Adopt {chosen.length}
            </button>
            <button
              type="button"
              className="btn btn-sm"
              disabled={chosen.length === 0}
              onClick={() => setAside(chosen)}
            >
              Set aside
            </button>
          </div>
        ) : (
          <span />
        )}
      </div>
      {open && (
        <div className="overflow-x-auto border-t border-[var(--line-2)]">
          <table className="grid-table min-w-[820px] table-fixed">
            <colgroup>
              <col className="w-11" />
              <col className="w-[19%]" />
              <col className="w-[12%]" />
              <col className="w-[17%]" />
              <col />
              <col className="w-24" />
            </colgroup>
            <tbody>
              {group.devices.map((d) => (
                <tr key={d.id}>
                  <td className="w-9">
                    <input
                      type="checkbox"
                      className="checkbox checkbox-sm align-middle"
                      aria-label={`Choose ${d.name ?? d.address ?? d.number}`}
                      checked={!left.has(d.id)}
                      onChange={(e) => {
                        const next = new Set(left);
                        if (e.target.checked) next.delete(d.id);
                        else next.add(d.id);
                        setLeft(next);
                      }}
                    />
                  </td>
                  <td className="mono">
                    <Link
                      to="/assets/$asset"
                      params={{ asset: String(d.id) }}
                      search={{}}
                      className="link-quiet"
                    >
                      {d.name ?? d.number}
                    </Link>
                  </td>
                  <td className="mono">{d.address}</td>
                  <td className="mono">{d.mac ?? d.serial}</td>
                  <td className="dim">
                    {d.reasons.length
                      ? d.reasons.slice(0, 2).join("; ")
                      : "told of by other systems, never met on a network"}
                  </td>
                  <td className="text-right">
                    {d.sure > 0 && d.sure < UNSURE ? (
                      <span className="tag warn">look first</span>
                    ) : (
                      <span className="tag">new</span>
                    )}
                  </td>
                </tr>
              ))}
            </tbody>
          </table>
        </div>
      )}
    </section>
  );
}

function plurals(kind: string): string {
  return kind.endsWith("ch") ? `${kind}es` : kind.endsWith("y") ? `${kind.slice(0, -1)}ies` : `${kind}s`;
}

function Sureness({ percent }: { percent: number }) {
  return (
    <span className="flex items-center gap-2">
      <span className="h-2 w-[86px] overflow-hidden rounded-full bg-[var(--stone-2)]" aria-hidden="true">
        <span
          className="block h-full rounded-full"
          style={{
            width: `${percent}%`,
            background: percent < UNSURE ? "var(--color-error)" : "var(--color-success)",
          }}
        />
      </span>
      <span className="dim text-[12.5px] whitespace-nowrap">{percent} % sure</span>
    </span>
  );
}

function ReasonDialog({
  devices,
  close,
  confirm,
}: {
  devices: IntakeDevice[];
  close: () => void;
  confirm: (reason: string) => void;
}) {
  const [reason, setReason] = useState("");
  return (
    <Dialog title={`Set ${plural(devices.length, "device")} aside`} close={close}>
      <form
        onSubmit={(e) => {
          e.preventDefault();
          if (reason.trim()) confirm(reason.trim());
        }}
      >
        <p className="dim mb-3 text-[13px]">
          They stay known and are recognised when seen again, but are not tracked.
        </p>
        <Labelled label="Why">
          {(id) => (
            <input
              id={id}
              className="input w-full"
              autoFocus
              required
              list="aside-reasons"
              value={reason}
              onChange={(e) => setReason(e.target.value)}
            />
          )}
        </Labelled>
        <datalist id="aside-reasons">
          <option value="Belongs to someone else" />
          <option value="Galley equipment, looked after by the Workshop" />
          <option value="A guest's own device" />
        </datalist>
        <div className="mt-4 flex justify-end gap-2">
          <button type="button" className="btn" onClick={close}>
            Leave
          </button>
          <button type="submit" className="btn btn-primary">
            Set aside
          </button>
        </div>
      </form>
    </Dialog>
  );
}
