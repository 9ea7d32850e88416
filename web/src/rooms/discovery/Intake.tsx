import { useQuery, useQueryClient } from "@tanstack/react-query";
import { Link } from "@tanstack/react-router";
import { useState } from "react";
import { asks } from "../../api/asking";
import { client, ok } from "../../api/client";
import type { IntakeDevice } from "../../api/types";
import { DeviceLink } from "../../parts/DeviceLink";
import { Dialog, Labelled } from "../../parts/Dialog";
import { useDial } from "../../parts/dial";
import { capital, plural, shortDay } from "../../parts/format";
import { useMay } from "../../parts/me";
import { Empty, Unanswered } from "../../parts/Problem";
import { sayRefused } from "../../parts/refusal";
import { Table } from "../../parts/table/Table";
import { undoToast } from "../../parts/undo";
import { t } from "../../words";
import { Group } from "./IntakeGroup";
import { IntakeRules } from "./IntakeRules";
import { UndecidedCase } from "./UndecidedCase";

/** Where found devices wait until someone decides. */
export function IntakePage() {
  const queries = useQueryClient();
  const { past, turn } = useDial();
  const intake = useQuery(asks("/api/intake"));
  const aside = useQuery(asks("/api/set-aside"));
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
      sayRefused(error, t("Nothing was decided."));
    }
  };
  if (intake.error || !intake.data) return <Unanswered asked={intake} what={t("Reading what waits …")} />;
  const { groups, total, shown, undecided } = intake.data;
  const earliest = groups.map((g) => g.first_seen).sort()[0];
  const mayNow = may && !past;
  return (
    <div className="mx-auto w-full max-w-[1280px] px-4 pb-10">
      <div className="flex flex-wrap items-center gap-x-4 gap-y-2 py-3.5">
        <h1>{t("Intake")}</h1>
        <span className="dim text-[13.5px]">
          {total > 0
            ? t(
                "{{devices}} in {{groups}}, found since {{which}}. Nothing is tracked until someone says so.",
                {
                  devices: plural(total, "device"),
                  groups: plural(groups.length, "group"),
                  which: earliest ? shortDay(earliest) : "",
                },
              )
            : t("Nothing waits.")}
        </span>
        <span className="flex-1" />
        {(aside.data?.length ?? 0) > 0 && (
          <button
            type="button"
            className="link-quiet text-[13px] font-semibold"
            onClick={() => setShowAside(!showAside)}
          >
            {t("Set aside earlier:")} {aside.data?.length}
          </button>
        )}
        <button
          type="button"
          className="link-quiet text-[13px] font-semibold"
          aria-expanded={showRules}
          onClick={() => setShowRules(!showRules)}
        >
          {t("Rules")}
        </button>
        <Link to="/discovery" search={{}} className="link-quiet text-[13px] font-semibold">
          {t("Sweeps")}
        </Link>
      </div>
      {showRules && <IntakeRules may={mayPlan && !past} />}
      {past && (
        <p className="tag warn mb-3 !block !py-2 !whitespace-normal">
          {t("The intake shows what waits now. Nothing can be decided while the dial is turned back.")}{" "}
          <button type="button" className="link-quiet font-semibold" onClick={() => turn(null)}>
            {t("Back to now")}
          </button>
        </p>
      )}
      {shown < total && (
        <p className="tag mb-3 !block !py-2 !whitespace-normal">
          {t("The first {{shown}} of {{total}} are shown, by name; once some are decided the next come.", {
            shown,
            total,
          })}
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
                t("{{devices}} adopted into the register.", { devices: plural(devices.length, "device") }),
              )
            }
            setAside={setReasonFor}
          />
        ))}
      </div>
      {total === 0 && undecided.length === 0 && (
        <div className="sheet">
          <Empty title={t("Everything found has been decided.")}>
            <Link to="/discovery" search={{}} className="link-quiet">
              {t("Start a sweep")}
            </Link>{" "}
            {t("to see whether something new is on the network.")}
          </Empty>
        </div>
      )}
      {showAside && (
        <section className="sheet mt-4 overflow-x-auto" aria-label={t("Set aside")}>
          <Table
            list="intake"
            label={t("Set aside")}
            rows={aside.data ?? []}
            rowKey={(d) => d.id}
            acts={
              mayNow
                ? (ticked, untick) => (
                    <button
                      type="button"
                      className="btn btn-primary btn-sm"
                      onClick={() => {
                        void decide(ticked, { standing: "intake", aside_reason: null }, t("Back at intake."));
                        untick();
                      }}
                    >
                      {t("Bring back {{ticked}}", { ticked: ticked.length })}
                    </button>
                  )
                : undefined
            }
            columns={[
              {
                key: "name",
                label: t("Name"),
                of: (d) => d.name ?? d.number,
                cell: (d) => (
                  <DeviceLink asset={d.id} className="link-quiet">
                    {d.name ?? d.number}
                  </DeviceLink>
                ),
                mono: true,
              },
              { key: "kind", label: t("Kind"), of: (d) => d.kind, cell: (d) => capital(d.kind ?? "device") },
              { key: "address", label: t("Address"), of: (d) => d.address, mono: true },
              { key: "why_it_was_set_aside", label: t("Why it was set aside"), of: (d) => d.aside_reason },
              {
                key: "do",
                label: "",
                cell: (d) =>
                  mayNow && (
                    <button
                      type="button"
                      className="link-quiet font-semibold"
                      onClick={() =>
                        void decide([d], { standing: "intake", aside_reason: null }, t("Back at intake."))
                      }
                    >
                      {t("Bring back")}
                    </button>
                  ),
                className: "text-right",
              },
            ]}
          />
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
              t("{{devices}} set aside.", { devices: plural(reasonFor.length, "device") }),
            );
            setReasonFor(null);
          }}
        />
      )}
    </div>
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
    <Dialog title={t("Set {{devices}} aside", { devices: plural(devices.length, "device") })} close={close}>
      <form
        onSubmit={(e) => {
          e.preventDefault();
          if (reason.trim()) confirm(reason.trim());
        }}
      >
        <p className="dim mb-3 text-[13px]">
          {t("They stay known and are recognised when seen again, but are not tracked.")}
        </p>
        <Labelled label={t("Why")}>
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
            {t("Leave")}
          </button>
          <button type="submit" className="btn btn-primary">
            {t("Set aside")}
          </button>
        </div>
      </form>
    </Dialog>
  );
}
