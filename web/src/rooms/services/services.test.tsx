import { afterEach, expect, test, vi } from "vitest";
import type { Schemas } from "../../api/client";
import { me, type Shown, serverOf, show } from "../../parts/testing";
import { IfStops } from "./IfStops";
import { Inquiry } from "./Inquiry";
import { KeptServices } from "./KeptServices";
import { placed } from "./layout";
import { Programs } from "./Programs";
import { Signs } from "./Signs";
import { Subnets } from "./Subnets";
import { cables, cellOf, placedStrips, type Strip } from "./strips";
import { Talk } from "./Talk";
import { needed, within } from "./words";

let search: Record<string, string> = {};
const gone = vi.fn();
vi.mock("@tanstack/react-router", () => ({
  useSearch: () => search,
  useNavigate: () => gone,
  useParams: () => ({ service: "1" }),
  Link: (props: {
    children: unknown;
    title?: string;
    search?: { q?: string };
    params?: { service?: string };
  }) => (
    <a href={`#${props.search?.q ?? props.params?.service ?? ""}`} title={props.title}>
      {props.children as never}
    </a>
  ),
}));

let shown: Shown;
afterEach(() => {
  shown?.end();
  search = {};
  gone.mockClear();
});

const end = (asset: number, name: string): Schemas["EdgeEnd"] => ({
  asset,
  name,
  number: `A-${asset}`,
  kind: "server",
  place: "Saltholm",
});
const members = (devices: number, filter: string | null) => ({ devices, filter });
const service: Schemas["ServiceBrief"] = {
  id: 1,
  name: "Ticketing",
  purpose: "Tickets",
  owner: "Ines Kallas",
  importance: "high",
  promise: 90,
  hours: "",
  organisation: null,
  members: members(3, "serves[name = Ticketing]"),
  parts: [{ name: "Web", needs: 2, spare: -1, rules: [], members: members(1, "serves[part = Web]") }],
  signs: [
    {
      key: "short",
      grade: "bad",
      text: "Web: it needs 2 and has 1",
      devices: 1,
      filter: "serves[part = Web]",
    },
    { key: "empty", grade: "warn", text: "Data: no device is known to be of it", devices: 0, filter: null },
    ...["a", "b"].map((key) => ({ key, grade: "warn" as const, text: key, devices: 0, filter: null })),
  ],
};
const proposed: Schemas["ProposedService"] = {
  name: "Storekeeper",
  callers: members(37, "depends on [name = store]"),
  why: "37 devices call salt-store-01 on port 80",
  entries: [{ host: "salt-store-01", port: 80, devices: [end(9, "salt-store-01")] }],
  parts: [
    { name: "Storekeeper", needs: 1, spare: 0, rules: [{ filter: "ports[port = 80]", why: "it listens" }], members: members(1, null) },
  ], // biome-ignore format: one part
};

test("a promise and what a part needs are said in words", () => {
  expect([within(null), within(45), within(60), within(1440), within(90), within(2880)]).toEqual([
    "nothing promised",
    "back within 45 minutes",
    "back within 1 hour",
    "back within 1 day",
    "back within 1 hour 30 minutes",
    "back within 2 days",
  ]);
  expect([needed({ needs: 0 }, 1), needed({ needs: 0 }, 3), needed({ needs: 1 }, 2)]).toEqual([
    "needs it",
    "needs all 3",
    "needs 1 of 2",
  ]);
});

test("services tell how they stand, the worst first, and their figures open their devices", async () => {
  serverOf({
    "GET /api/me": me("manager"),
    "GET /api/services": { body: [service] },
    "GET /api/services/proposed": { body: [proposed] },
  });
  shown = await show(<KeptServices at={undefined} />);
  const text = shown.text();
  for (const words of [
    "much hangs on it",
    "Web: it needs 2 and has 1",
    "and 1 more",
    "back within 1 hour 30 minutes",
  ])
    expect(text).toContain(words);
  const links = shown.all("tbody a").map((a) => a.getAttribute("href"));
  expect(links).toContain("#serves[name = Ticketing]");
  expect(links).toContain("#depends on [name = store]");
});

test("who may not plan is offered no way to make a service, nor is the past", async () => {
  const answers = {
    "GET /api/services": { body: [] },
    "GET /api/services/proposed": { body: [proposed] },
  };
  serverOf({ ...answers, "GET /api/me": me("viewer") });
  shown = await show(<KeptServices at={undefined} />);
  expect(shown.text()).toContain("No service is kept yet.");
  expect(shown.all("button").map((b) => b.textContent)).not.toContain("New service");
  shown.end();
  serverOf({ ...answers, "GET /api/me": me("manager") });
  shown = await show(<KeptServices at="2026-08-03" />);
  expect(shown.all("button").map((b) => b.textContent)).not.toContain("Make it a service");
});

test("a proposal fills the form, its rules are tried, and it is kept as it was written", async () => {
  const called = serverOf({
    "GET /api/me": me("manager"),
    "GET /api/services": { body: [] },
    "GET /api/services/proposed": { body: [proposed] },
    "GET /api/organisations": { body: [] },
    "GET /api/filter/complete": { body: [] },
    "GET /api/services/questions": {
      body: [{ name: "What listens on a port", filter: "ports[port = 443]", why: "it listens on 443" }],
    },
    "POST /api/services/rehearsal": {
      body: {
        parts: [{ name: "Storekeeper", devices: 1, needed: 1 }],
        rows: [{ ...end(9, "salt-store-01"), part: "Storekeeper", because: ["it listens"], change: "comes" }],
        devices: 1,
        trouble: ["Web: There is no field “nam”."],
      },
    },
    "POST /api/services": { body: { ...service, id: 7 } },
  });
  shown = await show(<KeptServices at={undefined} />);
  await shown.click(shown.button("Make it a service"));
  await shown.type("Name", "Stores");
  await shown.type("Back within, in hours", "1.5");
  await shown.type("Where it is reached", "stores.example:443\n2001:db8::7\n[2001:db8::8]:80");
  await shown.click(shown.button("Try the rules"));
  await shown.sees("it listens");
  expect(shown.text()).toContain("There is no field “nam”.");
  await shown.type("A rule that begins with a question", "What listens on a port");
  await shown.submit();
  const kept = called.find((c) => c.call === "POST /api/services")?.body as Schemas["ServiceIn"];
  expect(kept).toMatchObject({ name: "Stores", promise: 90, organisation: null });
  expect(kept.entries).toEqual([
    { host: "stores.example", port: 443 },
    { host: "2001:db8::7", port: null },
    { host: "2001:db8::8", port: 80 },
  ]);
  expect(kept.parts).toEqual([
    {
      name: "Storekeeper",
      needs: 1,
      rules: [
        { filter: "ports[port = 80]", why: "it listens" },
        { filter: "ports[port = 443]", why: "it listens on 443" },
      ],
    },
  ]);
  expect(gone).toHaveBeenCalledWith(expect.objectContaining({ params: { service: "7" } }));
});

test("nothing wrong is said to be so", async () => {
  shown = await show(<Signs signs={[]} at={undefined} />);
  expect(shown.text()).toContain("nothing known to be wrong");
});

const strip = (
  asset: number,
  name: string,
  steps: number,
  ports: Partial<Schemas["SwitchPort"]>[],
): Strip => ({
  ...end(asset, name),
  steps,
  used: ports.length,
  ports: ports.map((p, n) => ({
    name: `port${n + 1}`,
    state: "one",
    up: true,
    speed: null,
    vlans: [],
    addresses: 1,
    behind: [],
    more: 0,
    to_port: "",
    seen_by: "",
    since: null,
    new: false,
    before: [],
    guess: "",
    role: "",
    spanning: "",
    duplex: "",
    aggregate: "",
    feeds: "",
    errors: null,
    discards: null,
    ...p,
  })),
});

test("strips stand by how far they are from the way out, and a cable is drawn once, from port to port", () => {
  const link = (to: number, port: string) => ({
    state: "switch" as const,
    behind: [end(to, "x")],
    to_port: port,
  });
  const strips = [
    strip(1, "gate", 0, [{}, link(2, "port1")]),
    strip(2, "switch", 1, [{ ...link(1, "port2"), spanning: "blocking" }, {}, {}]),
  ];
  const { placed: where, height } = placedStrips(strips);
  expect(where[0]?.y).toBe(0);
  expect(where[1]?.y).toBeGreaterThan(0);
  expect(height).toBeGreaterThan(where[1]?.y ?? 0);
  const drawn = cables(where);
  expect(drawn).toHaveLength(1);
  expect(drawn[0]?.held, "either end holds it back").toBe(true);
  const [one, other] = where;
  if (!one || !other) throw new Error("both stand somewhere");
  expect(cellOf(one, 1)[1]).toBeGreaterThan(cellOf(one, 0)[1]);
  expect(drawn[0]?.from[1]).toBeLessThan(drawn[0]?.to[1] ?? 0);
});

test("a row that is too long is broken, and no box is drawn over another", () => {
  const boxes = Array.from({ length: 23 }, (_, n) => ({
    layer: n < 3 ? "services" : "computers",
    row: n < 3 ? 0 : 1,
    name: `box ${n}`,
    asset: n,
    service: null,
    fate: "carries on" as const,
    devices: 1,
    filter: "",
    folded: null,
  }));
  for (const across of [420, 900, 1216]) {
    const { boxes: at, height } = placed(boxes, across);
    for (const one of at) {
      expect(one.x).toBeGreaterThanOrEqual(0);
      expect(one.x + one.width).toBeLessThanOrEqual(across);
      expect(one.y + one.height).toBeLessThanOrEqual(height);
      for (const other of at)
        if (one !== other)
          expect(
            one.x + one.width <= other.x ||
              other.x + other.width <= one.x ||
              one.y + one.height <= other.y ||
              other.y + other.height <= one.y,
          ).toBe(true);
    }
  }
});

const falls: Schemas["StopsOut"] = {
  gone: [end(1, "salt-db-01")],
  stops: members(1, "number = A-2"),
  weakened: members(0, null),
  services: [
    {
      id: 4,
      name: "Ticketing",
      fate: "stops",
      because: ["Data: salt-db-01 is down and nothing is left of it"],
      owner: "Ines Kallas",
      promise: 60,
      hours: "",
      importance: "high",
      devices: 39,
      people: 0,
    },
  ],
  people: [],
  places: [{ place: "Saltholm", stops: 1 }],
  programs: [
    {
      ...end(2, "tixline on salt-tix-02"),
      program: "tixline",
      fate: "stops",
      because: "it talks to grebe on salt-db-01",
      left: [],
      hops: 2,
    },
  ],
  rows: [{ ...end(2, "salt-tix-02"), fate: "stops", because: "it talks to salt-db-01", left: [], hops: 1 }],
  back: [["salt-db-01"], ["salt-tix-02"]],
  picture: { boxes: [], lines: [] },
};

test("what stops tells of services first, why, and whom to ask", async () => {
  serverOf({ "GET /api/services/stops": { body: falls }, "GET /api/me": me("viewer") });
  shown = await show(<IfStops filter="name = salt-db-01" lasts={150} at={undefined} />);
  const text = shown.text();
  expect(text).toContain("Down for 2 hours 30 minutes it breaks its promise by 1 hour 30 minutes");
  expect(text).toContain("Data: salt-db-01 is down and nothing is left of it");
  expect(text).toContain("39 devices stand on it; back within 1 hour; ask Ines Kallas");
  expect(text).toContain("It is too much to draw");
  expect(text).toContain("it talks to grebe on salt-db-01");
});

test("a box of what is alike is unfolded, and folded again", async () => {
  const box = (name: string, folded: number | null): Schemas["LayerBox"] => ({
    layer: "callers",
    row: 0,
    name,
    asset: folded === null ? 9 : null,
    service: null,
    fate: "weakened",
    devices: folded === null ? 1 : 12,
    filter: "number in (A-1, A-2)",
    folded,
  });
  const picture = { boxes: [box("12 × till", 31), box("one more", null)], lines: [] };
  const asked = serverOf({
    "GET /api/services/stops": { body: { ...falls, picture } },
    "GET /api/me": me("viewer"),
  });
  shown = await show(<IfStops filter="name = salt-db-01" at={undefined} />);
  expect(shown.text()).not.toContain("Fold again");
  const corner = document.querySelector('[aria-label="Unfold 12 × till"]');
  if (!corner) throw new Error("a folded box has a corner that unfolds it");
  await shown.click(corner);
  expect(asked.at(-1)?.query).toContain("unfold=31");
  await shown.click(shown.button("Fold again"));
  expect(asked.at(-1)?.query).not.toContain("unfold");
});

test("a program alone may stop, and what is asked names it", async () => {
  const asked = serverOf({ "GET /api/services/stops": { body: falls }, "GET /api/me": me("viewer") });
  shown = await show(<IfStops filter="" program="tixline" at={undefined} />);
  expect(shown.text()).toContain("What becomes of it");
  expect(asked.some((a) => a.query.includes("program=tixline"))).toBe(true);
});

const column: Schemas["InquiryColumn"] = {
  ...end(3, "salt-tix-02"),
  state: "in use",
  person: null,
  department: null,
  address: "10.60.4.22",
  os: "Tallow Linux 8",
  last_seen: "2026-11-29T10:00:00Z",
  hurt: [{ id: 4, name: "Ticketing", fate: "weakened", short: true }],
  under: members(29, "depends on [name = x]"),
  people: 1,
  bars: [{ what: "/var", percent: 93, words: "7 % free, full in 4 days at this rate", grade: "bad" }],
  ports: [{ switch: 9, name: "salt-sw-11", port: "port7", words: "half duplex", grade: "warn" }],
  certificates: [
    { port: 443, subject: "tickets.example", ends_at: "2026-11-28T00:00:00Z", days: -2, grade: "bad" },
  ],
  in_use: ["CVE-2026-99000001"],
  events: [{ at: "2026-11-25T10:00:00Z", sort: "quiet", text: "last heard with salt-db-01", grade: "bad" }],
  changed: [{ at: "2026-11-24T10:00:00Z", text: "quill updated 1 to 2", alike: 2 }],
  on: [{ asset: 5, name: "salt-hv-02", kind: "guest of", over: "", since: "2026-03-01T10:00:00Z" }],
  talk: [
    { asset: 1, name: "salt-db-01", direction: "out", over: "5432", process: "tixline", last_heard: "2026-11-22T10:00:00Z", quiet: true },
    { asset: 6, name: "salt-mail-01", direction: "out", over: "25", process: "tixline", last_heard: "2026-11-30T10:00:00Z", quiet: false },
  ],
  tell: [{ name: "Ines Kallas", why: "owns Ticketing" }],
  tickets: [{ number: "T-17", title: "No tickets", state: "new" }],
}; // biome-ignore format: one column
const told: Schemas["InquiryOut"] = {
  number: null,
  since: "2026-11-16T10:00:00Z",
  until: "2026-11-30T10:00:00Z",
  words: [
    { word: "10.60.4.22", what: "address", assets: [3], trouble: "" },
    { word: "nobody", what: "", assets: [], trouble: "nothing is known by that" },
    { word: "Crewing", what: "service", assets: [3, 4], trouble: "" },
  ],
  columns: [column],
  telling: [
    {
      sort: "quiet",
      text: "salt-tix-02 is quiet",
      assets: [3],
      weight: 88,
      why: "somebody is not heard (88)",
    },
  ],
  beside: [end(5, "salt-hv-02")],
  notes: [{ id: 1, at: "2026-11-30T10:00:00Z", by: "ines", text: "rang the desk" }],
};

test("an inquiry says what each word stands for, what is most telling and why, and what to look at beside", async () => {
  search = { q: "10.60.4.22, nobody, Crewing" };
  const called = serverOf({ "GET /api/me": me("operator"), "GET /api/services/inquiry": { body: told } });
  shown = await show(<Inquiry at={undefined} />);
  expect(new URLSearchParams(called.find((c) => c.call.endsWith("/inquiry"))?.query).getAll("of")).toEqual([
    "10.60.4.22",
    "nobody",
    "Crewing",
  ]);
  const text = shown.text();
  for (const words of [
    "is salt-tix-02",
    "nothing is known by that",
    "is a service: 2 devices",
    "rang the desk",
  ])
    expect(text).toContain(words);
  for (const words of [
    "Ticketing, short already",
    "7 % free",
    "over since",
    "on 2 of these",
    "quiet since",
    "T-17",
  ])
    expect(text).toContain(words);
  expect(text).not.toContain("(88)");
  await shown.click(shown.button("Why these"));
  expect(shown.text()).toContain("weighs 88: somebody is not heard (88)");
  await shown.click(shown.button("+ salt-hv-02"));
  const go = gone.mock.calls.at(-1)?.[0] as { search: (before: object) => { q: string } };
  expect(go.search({}).q).toBe("10.60.4.22, nobody, Crewing, salt-hv-02");
  await shown.click(shown.one('[aria-label="Without nobody"]'));
  const less = gone.mock.calls.at(-1)?.[0] as { search: (before: object) => { q: string } };
  expect(less.search({}).q).toBe("10.60.4.22, Crewing");
});

test("a note keeps an inquiry, and what is refused is said", async () => {
  search = { q: "10.60.4.22" };
  let refuse = true;
  const called = serverOf({
    "GET /api/me": me("operator"),
    "GET /api/services/inquiry": { body: { ...told, notes: [] } },
    "POST /api/services/inquiry/notes": () =>
      refuse
        ? {
            status: 422,
            body: { title: "Not saved", status: 422, detail: "A note is too long.", field: "text" },
          }
        : { body: { ...told, number: 12 } },
  });
  shown = await show(<Inquiry at={undefined} />);
  await shown.click(shown.button("Note"));
  await shown.type("What was found or done", "It is the pool.");
  await shown.submit();
  await shown.sees("A note is too long.");
  refuse = false;
  await shown.submit();
  expect(called.at(-1)?.body ?? called.findLast((c) => c.call.startsWith("POST"))?.body).toBeTruthy();
  const kept = called.findLast((c) => c.call.startsWith("POST"))?.body as Schemas["InquiryNoteIn"];
  expect(kept).toMatchObject({
    text: "It is the pool.",
    words: ["10.60.4.22", "nobody", "Crewing"],
    number: null,
  });
  const go = gone.mock.calls.at(-1)?.[0] as { search: (before: object) => { from: string } };
  expect(go.search({}).from).toBe("12");
});

test("nothing asked says what can be, and offers what was kept", async () => {
  serverOf({
    "GET /api/me": me("viewer"),
    "GET /api/services/inquiries": {
      body: [
        { number: 5, words: ["web", "data"], opened_at: "2026-11-29T10:00:00Z", opened_by: "ines", notes: 2 },
      ],
    },
  });
  shown = await show(<Inquiry at={undefined} />);
  expect(shown.text()).toContain("What is going on?");
  await shown.click(shown.button("web, data"));
  const go = gone.mock.calls.at(-1)?.[0] as { search: (before: object) => { q: string; from: string } };
  expect(go.search({})).toMatchObject({ q: "web, data", from: "5" });
});

const group: Schemas["ProgramGroup"] = {
  key: "k1",
  stem: "rota-feed",
  looks: "java -jar rota-feed.jar",
  listens: [8080],
  processes: 3,
  devices: members(2, "name in (a, b)"),
  first: "salt-crew-01",
  talks_to: ["salt-db-01"],
  called_by: 4,
  alike: 92,
  behaves: ["Web server"],
};
const tried: Schemas["TriedOut"] = {
  samples: 2,
  of: 2,
  devices: 2,
  processes: 3,
  before: 1,
  others: [],
  versions: { "2.4": 1, "none read": 1 },
  talks_to: ["salt-db-01"],
  called_by: 4,
  wide: "",
};
const program: Schemas["ProgramOut"] = {
  ...group,
  samples: [
    { ...end(1, "salt-crew-01"), command: [{ text: "java -Xmx", differs: false }, { text: "512m", differs: true }], account: "rota", listens: "8080", started: null },
  ],
  name: "Rota feed",
  rule: "command ~ rota-feed.jar",
  version: "rota-(\\d+)",
  instance: "a device and port",
  left_alone: false,
  why_alone: "",
  tried,
}; // biome-ignore format: one group
const unknown = {
  "GET /api/me": me("manager"),
  "GET /api/services/programs": { body: { groups: [group], count: 1, processes: 3, devices: 2, alone: 0 } },
  "GET /api/services/programs/k1": { body: program },
  "GET /api/services/applications": { body: [] },
};

test("a group shows what it does, samples with what differs marked, and the rule tried on all that was read", async () => {
  serverOf(unknown);
  shown = await show(<Programs at={undefined} />);
  await shown.sees("nothing else fits it");
  const text = shown.text();
  for (const words of ["heard from 4 devices", "talks to salt-db-01", "at the ports of a web server", "92 %"])
    expect(text).toContain(words);
  expect(shown.all("mark").map((m) => m.textContent)).toEqual(["512m"]);
  expect(text).toContain("ran on 1 device before");
  expect(text).toContain("Versions: 2.4 (1)");
});

test("a rule that was changed is to be tried anew, what it fits beside is said, and it is put in force", async () => {
  const called = serverOf({
    ...unknown,
    "POST /api/services/recognisers/tried": {
      body: { ...tried, others: [{ stem: "label-print", looks: "java", processes: 1 }] },
    },
    "POST /api/services/recognisers": { body: { id: 9 } },
  });
  shown = await show(<Programs at={undefined} />);
  await shown.sees("nothing else fits it");
  await shown.type("The rule, as read from its samples", "command ~ java");
  expect(shown.text()).toContain("The rule was changed: try it.");
  await shown.click(shown.button("Try it"));
  await shown.sees("It fits others as well: label-print");
  await shown.submit();
  const kept = called.findLast((c) => c.call === "POST /api/services/recognisers")?.body;
  expect(kept).toMatchObject({ name: "Rota feed", rule: "command ~ java", instance: "a device and port" });
});

test("a group is left alone or parted by a word", async () => {
  const called = serverOf({
    ...unknown,
    "POST /api/services/programs/k1/word": { status: 204, body: undefined },
  });
  shown = await show(<Programs at={undefined} />);
  await shown.sees("nothing else fits it");
  await shown.click(shown.button("Leave it alone"));
  expect(shown.text()).toContain("Every program is known.");
  shown.end();
  shown = await show(<Programs at={undefined} />);
  await shown.click(shown.button("Part them"));
  const words = called.filter((c) => c.call.endsWith("/word")).map((c) => (c.body as { word: string }).word);
  expect(words).toEqual(["alone", "parted"]);
});

test("talk is a matrix whose squares open their callers, and a list that says the same", async () => {
  const cell: Schemas["TalkCell"] = {
    caller: "till",
    called: "server",
    edges: 30,
    devices: 28,
    quiet: 2,
    ports: ["80"],
    filter: "kind = till",
  };
  const called = serverOf({
    "GET /api/me": me("viewer"),
    "GET /api/services/talk": { body: { by: "place", callers: ["till"], called: ["server"], cells: [cell] } },
  }); // biome-ignore format: one square
  shown = await show(<Talk filter="" at={undefined} />);
  const square = shown.one('table[aria-label="Matrix of who speaks with whom"] td a');
  expect(square.getAttribute("title")).toBe("28 of till call server on 80; 2 gone quiet");
  expect(square.getAttribute("href")).toBe("#kind = till");
  await shown.click(shown.button("Device"));
  expect(called.at(-1)?.query).toContain("by=name");
});

test("a network says how full it is, who routes for it, and who else knows the way", async () => {
  const network: Schemas["SubnetOut"] = {
    network: "10.60.4.0/24",
    size: 254,
    used: 250,
    devices: members(40, "address in 10.60.4.0/24"),
    places: ["Saltholm"],
    gear: [
      { asset: 1, name: "salt-gw-01", next_hop: "" },
      { asset: 2, name: "avrn-gw-01", next_hop: "10.60.4.1" },
    ],
    by_hand: 3,
  };
  const lone = { ...network, network: "10.60.9.0/24", gear: [], by_hand: 0 };
  serverOf({ "GET /api/me": me("viewer"), "GET /api/services/subnets": { body: [network, lone] } });
  shown = await show(<Subnets filter="" at={undefined} />);
  const text = shown.text();
  for (const words of ["250 of 254", "salt-gw-01", "1 knows the way", "no gateway tells of it"])
    expect(text).toContain(words);
});
