/** What a room shows that another room has: said here, so that no room knows another. */

import { lazy } from "react";
import type { Lens } from "./rooms/estate/Estate";
import type { View } from "./rooms/lifecycle/Lifecycle";
import type { ReportView } from "./rooms/reports/Reports";
import { t, withWords } from "./words";

/** Ways to look at a selection of the estate, beside the register itself. */
export const LENSES: Lens[] = [
  {
    key: "software",
    label: t("Software"),
    padded: true,
    Shown: lazy(
      withWords("software", () => import("./rooms/software/Products").then((m) => ({ default: m.Products }))),
    ),
  },
  {
    key: "changes",
    label: t("Changes"),
    padded: true,
    Shown: lazy(
      withWords("software", () => import("./rooms/software/Changes").then((m) => ({ default: m.Changes }))),
    ),
  },
  {
    key: "money",
    label: t("Money"),
    padded: true,
    Shown: lazy(
      withWords("valuation", () =>
        import("./rooms/valuation/MoneyLens").then((m) => ({ default: m.MoneyLens })),
      ),
    ),
  },
  {
    key: "exposure",
    label: t("Exposure"),
    padded: true,
    Shown: lazy(
      withWords("exposure", () =>
        import("./rooms/exposure/ExposureLens").then((m) => ({ default: m.ExposureLens })),
      ),
    ),
  },
  {
    key: "map",
    label: t("Map"),
    padded: true,
    Shown: lazy(
      withWords("services", () => import("./rooms/services/MapLens").then((m) => ({ default: m.MapLens }))),
    ),
  },
  {
    key: "networks",
    label: t("Networks"),
    padded: true,
    Shown: lazy(
      withWords("discovery", () =>
        import("./rooms/discovery/NetworksLens").then((m) => ({ default: m.NetworksLens })),
      ),
    ),
  },
  {
    key: "crosscheck",
    label: t("Cross-check"),
    padded: false,
    Shown: lazy(
      withWords("estate", () => import("./rooms/estate/CrossCheck").then((m) => ({ default: m.CrossCheck }))),
    ),
  },
];

/** What draws the map of a card on a board. */
export const CARD_MAP = lazy(
  withWords("services", () => import("./rooms/services/CardMap").then((m) => ({ default: m.CardMap }))),
);

/** Views of the room of reports that other rooms have. */
export const REPORT_VIEWS: ReportView[] = [
  {
    key: "handbooks",
    label: t("Handbooks"),
    hint: t("documents with prose and blocks that are filled afresh each time they are issued"),
    Shown: lazy(
      withWords("handbooks", () =>
        import("./rooms/handbooks/Handbooks").then((m) => ({ default: m.Handbooks })),
      ),
    ),
  },
];

/** Views of the lifecycle room that other rooms have. */
export const LIFECYCLE_VIEWS: View[] = [
  {
    key: "counts",
    label: t("Counts"),
    Shown: lazy(
      withWords("counts", () => import("./rooms/counts/Counts").then((m) => ({ default: m.Counts }))),
    ),
  },
  {
    key: "refresh",
    label: t("Refresh plan"),
    Shown: lazy(
      withWords("valuation", () =>
        import("./rooms/valuation/RefreshPlan").then((m) => ({ default: m.RefreshPlan })),
      ),
    ),
  },
  {
    key: "money",
    label: t("Money"),
    Shown: lazy(
      withWords("valuation", () => import("./rooms/valuation/Money").then((m) => ({ default: m.Money }))),
    ),
  },
];
