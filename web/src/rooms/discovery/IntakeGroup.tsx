import { useState } from "react";
import type { IntakeDevice, IntakeGroup } from "../../api/types";
import { DeviceLink } from "../../parts/DeviceLink";
import { capital, shortDay } from "../../parts/format";
import { t, word } from "../../words";

interface GroupProps {
  group: IntakeGroup;
  may: boolean;
  adopt: (devices: IntakeDevice[], kind: string | null) => void;
  setAside: (devices: IntakeDevice[]) => void;
}

const UNSURE = 60;

/** Devices at intake that look alike: all chosen until one is left out. */
export function Group({ group, may, adopt, setAside }: GroupProps) {
  const [open, setOpen] = useState(true);
  const [left, setLeft] = useState<Set<number>>(new Set());
  const chosen = group.devices.filter((d) => !left.has(d.id));
  const first = group.devices[0];
  const many = group.devices.length > 1;
  const title = many
    ? `${capital(group.kind === "device" ? t("devices of an unknown kind") : plurals(group.kind))}${group.place ? t(" at {{place}}", { place: group.place }) : ""}`
    : `${first?.name ?? first?.address ?? t("A device")}`;
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
            {t("first seen {{first_seen}}{{which}}", {
              first_seen: shortDay(group.first_seen),
              which: many
                ? t(", told apart by {{which}}", {
                    which: first?.serial
                      ? t("serial number")
                      : first?.mac
                        ? t("hardware address")
                        : t("name"),
                  })
                : "",
            })}
          </span>
        </button>
        <p className="text-[13px]">
          {t("Kind")} <b>{capital(word(group.kind))}</b>
          {group.manufacturer && (
            <>
              {" "}
              {t("· maker")} <b>{group.manufacturer}</b>
            </>
          )}
          {group.model && (
            <>
              {" "}
              {t("· model")} <b>{group.model}</b>
            </>
          )}
          {group.place && (
            <>
              {" "}
              {t("· place")} <b>{group.place}</b>
            </>
          )}
        </p>
        {known ? (
          <Sureness percent={group.sure} />
        ) : (
          <span className="dim text-[12.5px]">{t("only other systems know it")}</span>
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
              {t("Adopt {{chosen}}", { chosen: chosen.length })}
            </button>
            <button
              type="button"
              className="btn btn-sm"
              disabled={chosen.length === 0}
              onClick={() => setAside(chosen)}
            >
              {t("Set aside")}
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
                      aria-label={t("Choose {{name}}", { name: d.name ?? d.address ?? d.number })}
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
                    <DeviceLink asset={d.id} className="link-quiet">
                      {d.name ?? d.number}
                    </DeviceLink>
                  </td>
                  <td className="mono">{d.address}</td>
                  <td className="mono">{d.mac ?? d.serial}</td>
                  <td className="dim">
                    {d.reasons.length
                      ? d.reasons.slice(0, 2).join("; ")
                      : t("told of by other systems, never met on a network")}
                  </td>
                  <td className="text-right">
                    {d.sure > 0 && d.sure < UNSURE ? (
                      <span className="tag warn">{t("look first")}</span>
                    ) : (
                      <span className="tag">{t("new")}</span>
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
      <span className="dim text-[12.5px] whitespace-nowrap">{t("{{percent}} % sure", { percent })}</span>
    </span>
  );
}
