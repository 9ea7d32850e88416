import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { asks } from "../../api/asking";
import type { Schemas } from "../../api/client";
import { OfferedField } from "../../parts/ask/OfferedField";
import { Dialog } from "../../parts/Dialog";
import { Choice, FormFoot, TextField } from "../../parts/Form";
import { t } from "../../words";

type Kind = Schemas["LiveKindOut"];
type Settings = Record<string, string | number>;

interface Props {
  kind: Kind;
  settings: Settings;
  keep: (settings: Settings) => void;
  close: () => void;
}

/** What a live block is told. */
export function LiveForm({ kind, settings, keep, close }: Props) {
  const [v, setV] = useState<Settings>(settings);
  const set = (name: string) => (value: string) => setV({ ...v, [name]: value });
  return (
    <Dialog title={kind.label} close={close}>
      <form
        onSubmit={(e) => {
          e.preventDefault();
          e.stopPropagation();
          const read = kind.settings.flatMap((s) => {
            const said = v[s.name];
            if (said === undefined || said === "") return [];
            return [[s.name, s.kind === "number" ? Number(said) : said] as const];
          });
          keep(Object.fromEntries(read));
          close();
        }}
      >
        <p className="dim pb-2 text-[13px]">{kind.what}</p>
        {kind.settings.map((s) => {
          const value = String(v[s.name] ?? "");
          if (s.kind === "report")
            return <ReportChoice key={s.name} label={s.label} value={value} set={set(s.name)} />;
          if (s.kind === "service")
            return (
              <ServiceChoice key={s.name} label={s.label} value={value} set={set(s.name)} needed={s.needed} />
            );
          if (s.kind === "place")
            return (
              <OfferedField
                key={s.name}
                of="place"
                label={s.label}
                value={value}
                set={set(s.name)}
                hint={t("nothing: the place the handbook is about")}
              />
            );
          return (
            <TextField
              key={s.name}
              label={s.label}
              value={value}
              set={set(s.name)}
              required={s.needed}
              type={s.kind === "number" ? "number" : "text"}
              least={s.kind === "number" ? 1 : undefined}
              mono={s.kind === "filter"}
            />
          );
        })}
        <FormFoot close={close} save={t("Set it")} />
      </form>
    </Dialog>
  );
}

function ReportChoice(props: { label: string; value: string; set: (value: string) => void }) {
  const asked = useQuery(asks("/api/reports/list"));
  const options = (asked.data ?? []).map((r) => [r.key, r.name] as const);
  return <Choice {...props} options={[["", t("choose one")], ...options]} />;
}

function ServiceChoice(props: {
  label: string;
  value: string;
  set: (value: string) => void;
  needed: boolean;
}) {
  const asked = useQuery(asks("/api/services"));
  const options = (asked.data ?? []).map((s) => [s.name, s.name] as const);
  return (
    <Choice {...props} options={[["", props.needed ? t("choose one") : t("all of them")], ...options]} />
  );
}
