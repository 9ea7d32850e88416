import { lazy, Suspense, useState } from "react";
import { t } from "../../words";
import { TextField } from "../Form";
import { Waiting } from "../Problem";
import { useRegistry } from "../registry";

const Builder = lazy(() => import("./build/Builder").then((m) => ({ default: m.Builder })));

interface Props {
  label: string;
  value: string;
  set: (filter: string) => void;
  wrong?: string;
  hint?: string;
  placeholder?: string;
  rows?: number;
}

/** A question in a form: typed, or built of conditions as on the ask line. */
export function FilterField({ label, value, set, wrong, hint, placeholder, rows }: Props) {
  const [building, setBuilding] = useState(false);
  const registry = useRegistry();
  return (
    <div className={`relative ${building ? "sm:col-span-2" : ""}`}>
      <TextField
        label={label}
        mono
        rows={rows}
        value={value}
        set={set}
        wrong={wrong}
        hint={hint}
        placeholder={placeholder}
      />
      <button
        type="button"
        className="link-quiet absolute top-0 right-0 text-[12.5px] font-semibold"
        aria-expanded={building}
        onClick={() => setBuilding(!building)}
      >
        {building ? t("Type it") : t("Build it")}
      </button>
      {building && registry.data && (
        <div className="mb-3">
          <Suspense fallback={<Waiting what={t("Laying out the question …")} />}>
            <Builder
              value={value}
              registry={registry.data}
              verb={t("Use it")}
              submit={(filter) => {
                set(filter);
                setBuilding(false);
              }}
              close={() => setBuilding(false)}
            />
          </Suspense>
        </div>
      )}
    </div>
  );
}
