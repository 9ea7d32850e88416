import { amount, count } from "../../parts/format";
import type { Column } from "../../parts/table/column";
import { t } from "../../words";

/** How many were bought, and for how much each. */
export function boughtColumns<
  T extends { quantity: number; price: string; currency: string },
>(): Column<T>[] {
  return [
    {
      key: "units",
      label: t("Units"),
      of: (p) => p.quantity,
      cell: (p) => count(p.quantity),
      num: true,
      mono: true,
    },
    {
      key: "each",
      label: t("Each"),
      of: (p) => p.price,
      cell: (p) => (
        <>
          {amount(p.price)} {p.currency}
        </>
      ),
      num: true,
      mono: true,
      className: "whitespace-nowrap",
    },
  ];
}
