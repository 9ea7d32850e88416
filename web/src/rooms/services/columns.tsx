import type { Schemas } from "../../api/client";
import { DeviceLink } from "../../parts/DeviceLink";
import type { Column } from "../../parts/table/column";
import { t } from "../../words";

/** The columns every list of devices begins with here: which it is, of which kind, and where. */
export function deviceColumns<T extends Schemas["EdgeEnd"]>(at: string | undefined): Column<T>[] {
  return [
    {
      key: "name",
      label: t("Device"),
      of: (r) => r.name,
      cell: (r) => (
        <DeviceLink asset={r.asset} at={at} className="link-quiet font-semibold whitespace-nowrap">
          {r.name}
        </DeviceLink>
      ),
    },
    { key: "kind", label: t("Kind"), of: (r) => r.kind ?? "", cell: (r) => r.kind ?? "–" },
    { key: "place", label: t("Place"), of: (r) => r.place ?? "", cell: (r) => r.place ?? "–" },
  ];
}
