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
import { FILES } from "./files";
import { CARD_MAP, LENSES, LIFECYCLE_VIEWS, REPORT_VIEWS } from "./lenses";
import { Empty, Failed } from "./parts/Problem";
import { Shell } from "./parts/Shell";
import { SignIn } from "./rooms/signin/SignIn";
import type { Search } from "./search";
import { t } from "./words";

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
  component: lazyRouteComponent(async () => {
    const { Today } = await FILES.Today();
    return { default: () => <Today picture={CARD_MAP} /> };
  }),
});
const estate = createRoute({
  getParentRoute: () => root,
  path: "/estate",
  component: lazyRouteComponent(async () => {
    const { Estate } = await FILES.Estate();
    return { default: () => <Estate lenses={LENSES} /> };
  }),
});
const dossier = createRoute({
  getParentRoute: () => root,
  path: "/assets/$asset",
  component: lazyRouteComponent(FILES.Dossier, "Dossier"),
});
const discovery = createRoute({
  getParentRoute: () => root,
  path: "/discovery",
  component: lazyRouteComponent(FILES.Discovery, "Discovery"),
});
const run = createRoute({
  getParentRoute: () => root,
  path: "/discovery/runs/$run",
  component: lazyRouteComponent(FILES.RunPage, "RunPage"),
});
const trial = createRoute({
  getParentRoute: () => root,
  path: "/discovery/trials/$trial",
  component: lazyRouteComponent(FILES.TrialPage, "TrialPage"),
});
const source = createRoute({
  getParentRoute: () => root,
  path: "/discovery/sources/$source",
  component: lazyRouteComponent(FILES.SourcePage, "SourcePage"),
});
const newImport = createRoute({
  getParentRoute: () => root,
  path: "/discovery/imports",
  component: lazyRouteComponent(FILES.ImportPage, "NewImport"),
});
const oneImport = createRoute({
  getParentRoute: () => root,
  path: "/discovery/imports/$import",
  component: lazyRouteComponent(FILES.ImportPage, "ImportPage"),
});
const intake = createRoute({
  getParentRoute: () => root,
  path: "/discovery/intake",
  component: lazyRouteComponent(FILES.Intake, "IntakePage"),
});
const software = createRoute({
  getParentRoute: () => root,
  path: "/software",
  component: lazyRouteComponent(FILES.Software, "Software"),
});
const product = createRoute({
  getParentRoute: () => root,
  path: "/software/products/$product",
  component: lazyRouteComponent(FILES.ProductPage, "ProductPage"),
});
const exposure = createRoute({
  getParentRoute: () => root,
  path: "/exposure",
  component: lazyRouteComponent(FILES.Exposure, "Exposure"),
});
const advisory = createRoute({
  getParentRoute: () => root,
  path: "/exposure/advisories/$advisory",
  component: lazyRouteComponent(FILES.AdvisoryPage, "AdvisoryPage"),
});
const feeds = createRoute({
  getParentRoute: () => root,
  path: "/exposure/feeds",
  component: lazyRouteComponent(FILES.Feeds, "Feeds"),
});
const oneFeed = createRoute({
  getParentRoute: () => root,
  path: "/exposure/feeds/$feed",
  component: lazyRouteComponent(FILES.FeedPage, "FeedPage"),
});
const grading = createRoute({
  getParentRoute: () => root,
  path: "/exposure/grading",
  component: lazyRouteComponent(FILES.Grading, "Grading"),
});
const service = createRoute({
  getParentRoute: () => root,
  path: "/services/$service",
  component: lazyRouteComponent(FILES.ServicePage, "ServicePage"),
});
const services = createRoute({
  getParentRoute: () => root,
  path: "/services",
  component: lazyRouteComponent(FILES.Services, "Services"),
});
const licences = createRoute({
  getParentRoute: () => root,
  path: "/licences",
  component: lazyRouteComponent(FILES.Licences, "Licences"),
});
const licence = createRoute({
  getParentRoute: () => root,
  path: "/licences/$licence",
  component: lazyRouteComponent(FILES.LicencePage, "LicencePage"),
});
const lifecycle = createRoute({
  getParentRoute: () => root,
  path: "/lifecycle",
  component: lazyRouteComponent(async () => {
    const { Lifecycle } = await FILES.Lifecycle();
    return { default: () => <Lifecycle more={LIFECYCLE_VIEWS} /> };
  }),
});
const contract = createRoute({
  getParentRoute: () => root,
  path: "/lifecycle/contracts/$contract",
  component: lazyRouteComponent(FILES.ContractPage, "ContractPage"),
});
const acknowledge = createRoute({
  getParentRoute: () => root,
  path: "/acknowledge/$token",
  component: lazyRouteComponent(FILES.Acknowledge, "Acknowledge"),
});
const scanned = createRoute({
  getParentRoute: () => root,
  path: "/l/$code",
  component: lazyRouteComponent(FILES.Scanned, "Scanned"),
});
const count = createRoute({
  getParentRoute: () => root,
  path: "/counts/$count",
  component: lazyRouteComponent(FILES.CountPage, "CountPage"),
});
const pocket = createRoute({
  getParentRoute: () => root,
  path: "/pocket",
  component: lazyRouteComponent(FILES.Pocket, "Find"),
});
const pocketCard = createRoute({
  getParentRoute: () => root,
  path: "/pocket/assets/$asset",
  component: lazyRouteComponent(FILES.Pocket, "Card"),
});
const pocketCounts = createRoute({
  getParentRoute: () => root,
  path: "/pocket/count",
  component: lazyRouteComponent(FILES.Pocket, "CountList"),
});
const pocketCount = createRoute({
  getParentRoute: () => root,
  path: "/pocket/count/$count",
  component: lazyRouteComponent(FILES.Pocket, "CountAlong"),
});
const pocketPeople = createRoute({
  getParentRoute: () => root,
  path: "/pocket/people",
  component: lazyRouteComponent(FILES.Pocket, "People"),
});
const pocketMine = createRoute({
  getParentRoute: () => root,
  path: "/pocket/mine",
  component: lazyRouteComponent(FILES.Pocket, "Mine"),
});
const handbook = createRoute({
  getParentRoute: () => root,
  path: "/handbooks/$handbook",
  component: lazyRouteComponent(FILES.HandbookPage, "HandbookPage"),
});
const handbookIssue = createRoute({
  getParentRoute: () => root,
  path: "/handbooks/issues/$issue",
  component: lazyRouteComponent(FILES.IssuePage, "IssuePage"),
});
const reports = createRoute({
  getParentRoute: () => root,
  path: "/reports",
  component: lazyRouteComponent(async () => {
    const { Reports } = await FILES.Reports();
    return { default: () => <Reports more={REPORT_VIEWS} /> };
  }),
});
const compose = createRoute({
  getParentRoute: () => root,
  path: "/reports/compose",
  component: lazyRouteComponent(FILES.Composer, "Composer"),
});
const statements = createRoute({
  getParentRoute: () => root,
  path: "/reports/sql",
  component: lazyRouteComponent(FILES.Statements, "Statements"),
});
const report = createRoute({
  getParentRoute: () => root,
  path: "/reports/$report",
  component: lazyRouteComponent(FILES.ReportPage, "ReportPage"),
});
const sets = createRoute({
  getParentRoute: () => root,
  path: "/sets",
  component: lazyRouteComponent(FILES.Sets, "Sets"),
});
const oneSet = createRoute({
  getParentRoute: () => root,
  path: "/sets/$set",
  component: lazyRouteComponent(FILES.SetPage, "SetPage"),
});
const people = createRoute({
  getParentRoute: () => root,
  path: "/people",
  component: lazyRouteComponent(FILES.People, "People"),
});
const onePerson = createRoute({
  getParentRoute: () => root,
  path: "/people/$person",
  component: lazyRouteComponent(FILES.PersonPage, "PersonPage"),
});
const branches = createRoute({
  getParentRoute: () => root,
  path: "/branches",
  component: lazyRouteComponent(FILES.Branches, "Branches"),
});
const kinds = createRoute({
  getParentRoute: () => root,
  path: "/kinds",
  component: lazyRouteComponent(FILES.Kinds, "Kinds"),
});
const fillRules = createRoute({
  getParentRoute: () => root,
  path: "/fill-rules",
  component: lazyRouteComponent(FILES.FillRules, "FillRules"),
});
const tasks = createRoute({
  getParentRoute: () => root,
  path: "/tasks",
  component: lazyRouteComponent(FILES.Tasks, "Tasks"),
});
const oneTask = createRoute({
  getParentRoute: () => root,
  path: "/tasks/$task",
  component: lazyRouteComponent(FILES.TaskPage, "TaskPage"),
});
const how = createRoute({
  getParentRoute: () => root,
  path: "/how",
  component: lazyRouteComponent(FILES.How, "How"),
});
const settings = createRoute({
  getParentRoute: () => root,
  path: "/settings",
  component: lazyRouteComponent(FILES.Settings, "Settings"),
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
