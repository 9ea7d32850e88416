import { afterEach, beforeEach, expect, test, vi } from "vitest";
import type { Schemas } from "../../api/client";
import { me, type Shown, serverOf, show } from "../../parts/testing";
import { Discovery } from "./Discovery";
import { NetworksLens } from "./NetworksLens";

const went: unknown[] = [];
let dial: string | undefined;
vi.mock("@tanstack/react-router", () => ({
  useSearch: () => ({ at: dial }),
  useNavigate: () => (to: unknown) => void went.push(to),
  Link: (props: { children: unknown; search?: { q?: string } }) => (
    <a href={`#${props.search?.q ?? ""}`}>{props.children as never}</a>
  ),
}));

let shown: Shown;
beforeEach(() => {
  went.length = 0;
  dial = undefined;
});
afterEach(() => shown?.end());

const sweep = {
  id: 1,
  name: "Night",
  ranges: ["10.60.4.0/24", "10.60.5.0/24"],
  exclusions: ["10.60.4.9"],
  credentials: [2, 99],
  schedule: "FREQ=DAILY;BYHOUR=1",
  schedule_words: "every day at 01:00",
  next_at: null,
  route: "lab",
  organisation: null,
  last_run: {
    id: 8,
    state: "done",
    total: 508,
    done: 508,
    made_at: 1_790_000_000,
    ended_at: 1_790_000_600,
    outcomes: { "no answer": 400, waiting: 8, "fully read": 100 },
  },
};
const credential = { id: 2, name: "linux", protocol: "ssh", user: "tarn", port: 22, refusals: 3, used_by: ["Night"],
  organisation: null }; // biome-ignore format: one credential
const network = { id: 5, range: "10.60.4.0/24", name: "Data room", place: "Saltholm", never_probe: false, at_once: 64,
  outposts: ["post 1"], organisation: null, quiet: "FREQ=WEEKLY", quiet_words: "every week", quiet_minutes: 90 }; // biome-ignore format: one network
const answers = (more: object = {}) => ({
  "GET /api/me": me("administrator"),
  "GET /api/organisations": { body: [] },
  "GET /api/sweeps": { body: [sweep] },
  "GET /api/credentials": { body: [credential, { ...credential, id: 3, name: "token", protocol: "http", user: "", refusals: 0, used_by: [] }] },
  "GET /api/networks": { body: [network, { ...network, id: 6, range: "10.60.9.0/24", never_probe: true, outposts: [], quiet: "" }] },
  "GET /api/sources": { body: [] },
  "GET /api/outposts": { body: [] },
  "GET /api/reporters/enrolments": { body: [] },
  "GET /api/hooks": { body: [] },
  "GET /api/intake/count": { body: { count: 0 } },
  ...more,
}); // biome-ignore format: an answer a line

test("a sweep says where it looks, with what, when, and what came of it", async () => {
  serverOf(answers());
  shown = await show(<Discovery />);
  await shown.sees("100 answered of 508");
  const card = shown.one("section[aria-label=Sweeps] article").textContent ?? "";
  for (const said of ["10.60.4.0/24, 10.60.5.0/24", "without 10.60.4.9", "with linux", "every day at 01:00", "Last run done"])
    expect(card).toContain(said);
}); // biome-ignore format: a list

test("a run under way is counted, and no second one is begun beside it", async () => {
  const run = { ...sweep.last_run, state: "running", done: 40, ended_at: null };
  serverOf(
    answers({
      "GET /api/sweeps": { body: [{ ...sweep, last_run: run, credentials: [], schedule_words: "" }] },
    }),
  );
  shown = await show(<Discovery />);
  await shown.sees("running: 40 of 508");
  expect(shown.button("Start now").disabled).toBe(true);
  expect(shown.text()).toContain("without a credential");
  expect(shown.text()).toContain("by hand");
});

test("a sweep is started and its run is opened; one that cannot start is said", async () => {
  const called = serverOf(answers({ "POST /api/sweeps/1/runs": { body: { id: 9 } } }));
  shown = await show(<Discovery />);
  await shown.click(shown.button("Start now"));
  expect(called.some((c) => c.call === "POST /api/sweeps/1/runs")).toBe(true);
  expect(went.at(-1)).toMatchObject({ to: "/discovery/runs/$run", params: { run: "9" } });
  shown.end();
  went.length = 0;
  serverOf(
    answers({
      "POST /api/sweeps/1/runs": { status: 409, body: { detail: "It runs already.", status: 409 } },
    }),
  );
  shown = await show(<Discovery />);
  await shown.click(shown.button("Start now"));
  expect(went).toEqual([]);
});

test("what is held back, never probed and reached by outposts alone is marked", async () => {
  serverOf(answers());
  shown = await show(<Discovery />);
  await shown.sees("never probe");
  const rows = (label: string) =>
    shown.all(`table[aria-label=${label}] tbody tr`).map((r) => r.textContent ?? "");
  const [ssh = "", http = ""] = rows("Credentials");
  expect(ssh).toContain("held back");
  expect(ssh).toContain("1 sweep");
  expect(http).toContain("token");
  expect(http).toContain("no sweep");
  const [first = "", second = ""] = rows("Networks");
  expect(first).toContain("by outpost");
  expect(first).toContain("every week, 90 minutes");
  expect(second).toContain("never probe");
});

test("a token is no sign-in at a device: it cannot be tried at one", async () => {
  serverOf(answers());
  shown = await show(<Discovery />);
  await shown.sees("held back");
  const tries = shown
    .all("table[aria-label=Credentials] tbody tr")
    .map((r) => r.textContent?.includes("Try"));
  expect(tries).toEqual([true, false]);
});

test.each([
  ["viewer", ["New sweep", "Start now", "New credential", "New network", "Change"], []],
  ["operator", ["New sweep", "New credential", "New network"], ["Start now"]],
  ["administrator", [], ["New sweep", "Start now", "New credential", "New network"]],
] as const)("a %s is offered what the role may do and no more", async (role, hidden, offered) => {
  serverOf(answers({ "GET /api/me": me(role) }));
  shown = await show(<Discovery />);
  await shown.sees("Data room");
  const words = shown.all("button").map((b) => b.textContent);
  for (const act of hidden) expect(words).not.toContain(act);
  for (const act of offered) expect(words).toContain(act);
});

test("of the past nothing is begun or changed", async () => {
  dial = "2026-03-01";
  serverOf(answers());
  shown = await show(<Discovery />);
  await shown.sees("Data room");
  for (const act of ["New sweep", "Start now", "Change", "Try"])
    expect(shown.all("button").map((b) => b.textContent)).not.toContain(act);
});

test("where there is nothing yet the next step is said", async () => {
  serverOf(answers({ "GET /api/sweeps": { body: [] }, "GET /api/credentials": { body: [] } }));
  shown = await show(<Discovery />);
  await shown.sees("No sweep yet.");
  expect(shown.text()).toContain("Without one a sweep sees only which ports answer.");
});

test("sweeps that cannot be read are said, and asked for again", async () => {
  let times = 0;
  serverOf(
    answers({
      "GET /api/sweeps": () => {
        times += 1;
        return times === 1
          ? { status: 503, body: { detail: "The database is busy.", status: 503 } }
          : { body: [sweep] };
      },
    }),
  );
  shown = await show(<Discovery />);
  await shown.sees("The database is busy.");
  await shown.click(shown.button("Try again"));
  await shown.sees("every day at 01:00");
});

const share = (id: number, more: Partial<Schemas["NetworkShare"]> = {}): Schemas["NetworkShare"] => ({
  id,
  range: `10.60.${id}.0/24`,
  name: "quay",
  place: "Saltholm",
  devices: 64,
  addresses: 256,
  kinds: [{ kind: "server", count: 60 }, { kind: "", count: 4 }],
  last_seen: "2026-11-29T10:00:00Z",
  filter: `address in 10.60.${id}.0/24`,
  ...more,
}); // biome-ignore format: one share
const lens = (networks: Schemas["NetworkShare"][], more: object = {}) => ({
  "GET /api/me": me("viewer"),
  "GET /api/networks/selected": {
    body: { total: 70, networks, outside: 4, outside_filter: "address != none", without: 2, ...more },
  },
});

test("the networks of a selection open their devices within what was asked", async () => {
  const called = serverOf(lens([share(4), share(5, { devices: 1, last_seen: null })]));
  shown = await show(<NetworksLens filter="kind = server or kind = till" at="2026-11-01" />);
  await shown.sees("2 networks hold 64 of 70 devices.");
  expect(called.find((c) => c.call.endsWith("/selected"))?.query).toContain("as_of=2026-11-01");
  const opens = shown.all("a").map((a) => [a.textContent, a.getAttribute("href")?.slice(1)]);
  const within = "(kind = server or kind = till) and ";
  expect(opens).toEqual([
    ["4 devices", `${within}address != none`],
    ["2 devices", `${within}address = none`],
    ["64", `${within}address in 10.60.4.0/24`],
    ["1", `${within}address in 10.60.5.0/24`],
  ]);
  const [first = "", second = ""] = shown.all("tbody tr").map((r) => r.textContent ?? "");
  expect(first).toContain("25"); // a quarter of its addresses
  expect(first).toContain("server 60, no kind 4");
  expect(second).toContain("0.4");
});

test("a selection that lies in no network says where networks are noted", async () => {
  serverOf(lens([], { outside: 0, without: 0, total: 0 }));
  shown = await show(<NetworksLens filter="" at={undefined} />);
  await shown.sees("Networks are noted under Discovery");
  expect(shown.all("a")).toEqual([]);
});
