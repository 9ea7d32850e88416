import {
  createRootRoute,
  createRoute,
  createRouter,
  lazyRouteComponent,
  type RouterHistory,
  redirect,
  retainSearchParams,
  stripSearchParams,
} from "@tanstack/react-router";
import { CARD_MAP, LENSES, LIFECYCLE_VIEWS, REPORT_VIEWS } from "./lenses";
import { Empty, Failed } from "./parts/Problem";
import { Shell } from "./parts/Shell";
import { SignIn } from "./rooms/signin/SignIn";
import type { Search } from "./search";
import { t, withWords } from "./words";

function text(value: unknown): string | undefined {
  return typeof value === "string" && value !== ""
    ? value
    : typeof value === "number"
      ? String(value)
      : undefined;
}

const root = createRootRoute({
  component: Shell,
  validateSearch: (raw: Record<string, unknown>): Search => ({
    at: text(raw.at),
    in: text(raw.in),
    q: text(raw.q),
    sort: text(raw.sort),
    bands: text(raw.bands),
    cols: text(raw.cols),
    to: text(raw.to),
    tab: text(raw.tab),
    program: text(raw.program),
    from: text(raw.from),
    written: text(raw.written),
    reset: text(raw.reset),
    error: text(raw.error),
    peek: typeof raw.peek === "number" ? raw.peek : undefined,
    lasts: typeof raw.lasts === "number" && raw.lasts > 0 ? raw.lasts : undefined,
  }),
  // Where one stands holds from page to page until one goes elsewhere.
  search: { middlewares: [stripSearchParams<Search>({ in: "" }), retainSearchParams<Search>(["in"])] },
  notFoundComponent: () => (
    <Empty title={t("There is no such page.")}>{t("The address may be mistyped.")}</Empty>
  ),
});

const home = createRoute({
  getParentRoute: () => root,
  path: "/",
  beforeLoad: () => {
    throw redirect({ to: "/today", search: {} });
  },
});
const signIn = createRoute({ getParentRoute: () => root, path: "/sign-in", component: SignIn });
const today = createRoute({
  getParentRoute: () => root,
  path: "/today",
  component: lazyRouteComponent(
    withWords("today", async () => {
      const { Today } = await import("./rooms/today/Today");
      return { default: () => <Today picture={CARD_MAP} /> };
    }),
  ),
});
const estate = createRoute({
  getParentRoute: () => root,
  path: "/estate",
  component: lazyRouteComponent(
    withWords("estate", async () => {
      const { Estate } = await import("./rooms/estate/Estate");
      return { default: () => <Estate lenses={LENSES} /> };
    }),
  ),
});
const dossier = createRoute({
  getParentRoute: () => root,
  path: "/assets/$asset",
  component: lazyRouteComponent(
    withWords("dossier", () => import("./rooms/dossier/Dossier")),
    "Dossier",
  ),
});
const discovery = createRoute({
  getParentRoute: () => root,
  path: "/discovery",
  component: lazyRouteComponent(
    withWords("discovery", () => import("./rooms/discovery/Discovery")),
    "Discovery",
  ),
});
const run = createRoute({
  getParentRoute: () => root,
  path: "/discovery/runs/$run",
  component: lazyRouteComponent(
    withWords("discovery", () => import("./rooms/discovery/RunPage")),
    "RunPage",
  ),
});
const trial = createRoute({
  getParentRoute: () => root,
  path: "/discovery/trials/$trial",
  component: lazyRouteComponent(
    withWords("discovery", () => import("./rooms/discovery/TrialPage")),
    "TrialPage",
  ),
});
const source = createRoute({
  getParentRoute: () => root,
  path: "/discovery/sources/$source",
  component: lazyRouteComponent(
    withWords("discovery", () => import("./rooms/discovery/SourcePage")),
    "SourcePage",
  ),
});
const newImport = createRoute({
  getParentRoute: () => root,
  path: "/discovery/imports",
  component: lazyRouteComponent(
    withWords("discovery", () => import("./rooms/discovery/ImportPage")),
    "NewImport",
  ),
});
const oneImport = createRoute({
  getParentRoute: () => root,
  path: "/discovery/imports/$import",
  component: lazyRouteComponent(
    withWords("discovery", () => import("./rooms/discovery/ImportPage")),
    "ImportPage",
  ),
});
const intake = createRoute({
  getParentRoute: () => root,
  path: "/discovery/intake",
  component: lazyRouteComponent(
    withWords("discovery", () => import("./rooms/discovery/Intake")),
    "IntakePage",
  ),
});
const software = createRoute({
  getParentRoute: () => root,
  path: "/software",
  component: lazyRouteComponent(
    withWords("software", () => import("./rooms/software/Software")),
    "Software",
  ),
});
const product = createRoute({
  getParentRoute: () => root,
  path: "/software/products/$product",
  component: lazyRouteComponent(
    withWords("software", () => import("./rooms/software/ProductPage")),
    "ProductPage",
  ),
});
const exposure = createRoute({
  getParentRoute: () => root,
  path: "/exposure",
  component: lazyRouteComponent(
    withWords("exposure", () => import("./rooms/exposure/Exposure")),
    "Exposure",
  ),
});
const advisory = createRoute({
  getParentRoute: () => root,
  path: "/exposure/advisories/$advisory",
  component: lazyRouteComponent(
    withWords("exposure", () => import("./rooms/exposure/AdvisoryPage")),
    "AdvisoryPage",
  ),
});
const feeds = createRoute({
  getParentRoute: () => root,
  path: "/exposure/feeds",
  component: lazyRouteComponent(
    withWords("exposure", () => import("./rooms/exposure/Feeds")),
    "Feeds",
  ),
});
const oneFeed = createRoute({
  getParentRoute: () => root,
  path: "/exposure/feeds/$feed",
  component: lazyRouteComponent(
    withWords("exposure", () => import("./rooms/exposure/FeedPage")),
    "FeedPage",
  ),
});
const grading = createRoute({
  getParentRoute: () => root,
  path: "/exposure/grading",
  component: lazyRouteComponent(
    withWords("exposure", () => import("./rooms/exposure/Grading")),
    "Grading",
  ),
});
const service = createRoute({
  getParentRoute: () => root,
  path: "/services/$service",
  component: lazyRouteComponent(
    withWords("services", () => import("./rooms/services/ServicePage")),
    "ServicePage",
  ),
});
const services = createRoute({
  getParentRoute: () => root,
  path: "/services",
  component: lazyRouteComponent(
    withWords("services", () => import("./rooms/services/Services")),
    "Services",
  ),
});
const licences = createRoute({
  getParentRoute: () => root,
  path: "/licences",
  component: lazyRouteComponent(
    withWords("licences", () => import("./rooms/licences/Licences")),
    "Licences",
  ),
});
const licence = createRoute({
  getParentRoute: () => root,
  path: "/licences/$licence",
  component: lazyRouteComponent(
    withWords("licences", () => import("./rooms/licences/LicencePage")),
    "LicencePage",
  ),
});
const lifecycle = createRoute({
  getParentRoute: () => root,
  path: "/lifecycle",
  component: lazyRouteComponent(
    withWords("lifecycle", async () => {
      const { Lifecycle } = await import("./rooms/lifecycle/Lifecycle");
      return { default: () => <Lifecycle more={LIFECYCLE_VIEWS} /> };
    }),
  ),
});
const contract = createRoute({
  getParentRoute: () => root,
  path: "/lifecycle/contracts/$contract",
  component: lazyRouteComponent(
    withWords("lifecycle", () => import("./rooms/lifecycle/ContractPage")),
    "ContractPage",
  ),
});
const acknowledge = createRoute({
  getParentRoute: () => root,
  path: "/acknowledge/$token",
  component: lazyRouteComponent(
    withWords("lifecycle", () => import("./rooms/lifecycle/Acknowledge")),
    "Acknowledge",
  ),
});
const scanned = createRoute({
  getParentRoute: () => root,
  path: "/l/$code",
  component: lazyRouteComponent(
    withWords("labels", () => import("./rooms/labels/Scanned")),
    "Scanned",
  ),
});
const count = createRoute({
  getParentRoute: () => root,
  path: "/counts/$count",
  component: lazyRouteComponent(
    withWords("counts", () => import("./rooms/counts/CountPage")),
    "CountPage",
  ),
});
const pocket = createRoute({
  getParentRoute: () => root,
  path: "/pocket",
  component: lazyRouteComponent(
    withWords("pocket", () => import("./rooms/pocket/pages")),
    "Find",
  ),
});
const pocketCard = createRoute({
  getParentRoute: () => root,
  path: "/pocket/assets/$asset",
  component: lazyRouteComponent(
    withWords("pocket", () => import("./rooms/pocket/pages")),
    "Card",
  ),
});
const pocketCounts = createRoute({
  getParentRoute: () => root,
  path: "/pocket/count",
  component: lazyRouteComponent(
    withWords("pocket", () => import("./rooms/pocket/pages")),
    "CountList",
  ),
});
const pocketCount = createRoute({
  getParentRoute: () => root,
  path: "/pocket/count/$count",
  component: lazyRouteComponent(
    withWords("pocket", () => import("./rooms/pocket/pages")),
    "CountAlong",
  ),
});
const pocketPeople = createRoute({
  getParentRoute: () => root,
  path: "/pocket/people",
  component: lazyRouteComponent(
    withWords("pocket", () => import("./rooms/pocket/pages")),
    "People",
  ),
});
const pocketMine = createRoute({
  getParentRoute: () => root,
  path: "/pocket/mine",
  component: lazyRouteComponent(
    withWords("pocket", () => import("./rooms/pocket/pages")),
    "Mine",
  ),
});
const handbook = createRoute({
  getParentRoute: () => root,
  path: "/handbooks/$handbook",
  component: lazyRouteComponent(
    withWords("handbooks", () => import("./rooms/handbooks/HandbookPage")),
    "HandbookPage",
  ),
});
const handbookIssue = createRoute({
  getParentRoute: () => root,
  path: "/handbooks/issues/$issue",
  component: lazyRouteComponent(
    withWords("handbooks", () => import("./rooms/handbooks/IssuePage")),
    "IssuePage",
  ),
});
const reports = createRoute({
  getParentRoute: () => root,
  path: "/reports",
  component: lazyRouteComponent(
    withWords("reports", async () => {
      const { Reports } = await import("./rooms/reports/Reports");
      return { default: () => <Reports more={REPORT_VIEWS} /> };
    }),
  ),
});
const compose = createRoute({
  getParentRoute: () => root,
  path: "/reports/compose",
  component: lazyRouteComponent(
    withWords("reports", () => import("./rooms/reports/Composer")),
    "Composer",
  ),
});
const statements = createRoute({
  getParentRoute: () => root,
  path: "/reports/sql",
  component: lazyRouteComponent(
    withWords("reports", () => import("./rooms/reports/Statements")),
    "Statements",
  ),
});
const report = createRoute({
  getParentRoute: () => root,
  path: "/reports/$report",
  component: lazyRouteComponent(
    withWords("reports", () => import("./rooms/reports/ReportPage")),
    "ReportPage",
  ),
});
const sets = createRoute({
  getParentRoute: () => root,
  path: "/sets",
  component: lazyRouteComponent(
    withWords("sets", () => import("./rooms/sets/Sets")),
    "Sets",
  ),
});
const oneSet = createRoute({
  getParentRoute: () => root,
  path: "/sets/$set",
  component: lazyRouteComponent(
    withWords("sets", () => import("./rooms/sets/SetPage")),
    "SetPage",
  ),
});
const people = createRoute({
  getParentRoute: () => root,
  path: "/people",
  component: lazyRouteComponent(
    withWords("people", () => import("./rooms/people/People")),
    "People",
  ),
});
const onePerson = createRoute({
  getParentRoute: () => root,
  path: "/people/$person",
  component: lazyRouteComponent(
    withWords("people", () => import("./rooms/people/PersonPage")),
    "PersonPage",
  ),
});
const branches = createRoute({
  getParentRoute: () => root,
  path: "/branches",
  component: lazyRouteComponent(
    withWords("branches", () => import("./rooms/branches/Branches")),
    "Branches",
  ),
});
const kinds = createRoute({
  getParentRoute: () => root,
  path: "/kinds",
  component: lazyRouteComponent(
    withWords("kinds", () => import("./rooms/kinds/Kinds")),
    "Kinds",
  ),
});
const fillRules = createRoute({
  getParentRoute: () => root,
  path: "/fill-rules",
  component: lazyRouteComponent(
    withWords("filling", () => import("./rooms/filling/FillRules")),
    "FillRules",
  ),
});
const tasks = createRoute({
  getParentRoute: () => root,
  path: "/tasks",
  component: lazyRouteComponent(
    withWords("tasks", () => import("./rooms/tasks/Tasks")),
    "Tasks",
  ),
});
const oneTask = createRoute({
  getParentRoute: () => root,
  path: "/tasks/$task",
  component: lazyRouteComponent(
    withWords("tasks", () => import("./rooms/tasks/TaskPage")),
    "TaskPage",
  ),
});
const how = createRoute({
  getParentRoute: () => root,
  path: "/how",
  component: lazyRouteComponent(
    withWords("how", () => import("./rooms/how/How")),
    "How",
  ),
});
const settings = createRoute({
  getParentRoute: () => root,
  path: "/settings",
  component: lazyRouteComponent(
    withWords("settings", () => import("./rooms/settings/Settings")),
    "Settings",
  ),
});

const routeTree = root.addChildren([
  pocket,
  pocketCard,
  pocketCounts,
  pocketCount,
  pocketPeople,
  pocketMine,
  count,
  handbook,
  handbookIssue,
  home,
  signIn,
  today,
  estate,
  dossier,
  discovery,
  run,
  trial,
  source,
  newImport,
  oneImport,
  intake,
  software,
  product,
  licences,
  licence,
  lifecycle,
  contract,
  exposure,
  services,
  service,
  grading,
  advisory,
  feeds,
  oneFeed,
  acknowledge,
  scanned,
  reports,
  compose,
  statements,
  report,
  sets,
  oneSet,
  people,
  onePerson,
  branches,
  kinds,
  fillRules,
  tasks,
  oneTask,
  settings,
  how,
]);

/** Return a router of all pages; in a browser its history is the address bar's. */
export const routerOf = (history?: RouterHistory) =>
  createRouter({
    routeTree,
    defaultPreload: "intent",
    defaultErrorComponent: Failed,
    ...(history ? { history } : {}),
  });

export const router = routerOf();

declare module "@tanstack/react-router" {
  interface Register {
    router: typeof router;
  }
}
