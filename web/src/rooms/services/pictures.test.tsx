import { afterEach, expect, test, vi } from "vitest";
import type { Schemas } from "../../api/client";
import { me, type Shown, serverOf, show } from "../../parts/testing";
import { Certificates } from "./Certificates";
import { Hosts } from "./Hosts";
import { pdfOf } from "./pdf";
import { Racks } from "./Racks";
import { letterOf, placedSlots, UNIT } from "./racks";
import { Vlans } from "./Vlans";

vi.mock("@tanstack/react-router", () => ({
  useSearch: () => ({}),
  useNavigate: () => () => {},
  Link: (props: { children: unknown }) => <a href="#there">{props.children as never}</a>,
}));

let shown: Shown;
afterEach(() => {
  shown?.end();
  vi.unstubAllGlobals();
});

const end = (asset: number, name: string) => ({
  asset,
  number: `A-0000${asset}`,
  name,
  kind: "server",
  place: "Saltholm",
});
const slot = (asset: number, name: string, more: Partial<Schemas["RackSlot"]>): Schemas["RackSlot"] => ({
  ...end(asset, name),
  unit: null,
  height: 1,
  feeds: [],
  one_feed: false,
  clash: false,
  mine: true,
  ...more,
});
const feed = (name: string, outlet: string) => ({ asset: 9, name, outlet });
const rack: Schemas["RackOut"] = {
  rack: "Row A 1",
  place: "Saltholm",
  units: 42,
  taken: 4,
  devices: { devices: 3, filter: "number in (A-00001)" },
  sources: ["pdu-1", "pdu-2"],
  slots: [
    slot(1, "host", { unit: 40, height: 2, feeds: [feed("pdu-1", "outlet 1"), feed("pdu-2", "outlet 1")] }),
    slot(2, "store", {
      unit: 1,
      feeds: [feed("pdu-1", "outlet 2"), feed("pdu-1", "outlet 3")],
      one_feed: true,
    }),
    slot(3, "loose", { clash: true }),
  ],
};

test("a device stands in its picture where its height units are, unit one at the bottom", () => {
  const [host, store, ...rest] = placedSlots(rack, 0);
  expect(rest, "who has no place is not drawn").toEqual([]);
  expect([host?.y, host?.height]).toEqual([UNIT + 1, 2 * UNIT - 2]);
  expect((store?.y ?? 0) + (store?.height ?? 0)).toBe(42 * UNIT - 1);
  expect([letterOf(0), letterOf(25), letterOf(26)]).toEqual(["A", "Z", "27"]);
});

test("racks say what feeds each device, who hangs on one source alone, and where two are said to be", async () => {
  serverOf({ "GET /api/me": me("viewer"), "GET /api/services/racks": { body: [rack] } });
  shown = await show(<Racks filter="" at={undefined} />);
  const text = shown.text();
  for (const words of ["4 of at least 42 height units taken", "40–41", "both plugs in one source", "another is said to be here", "not said", "On one source alone: store."])
    expect(text).toContain(words); // biome-ignore format: one list of words
  const drawn = shown.one('svg[role="group"]').textContent;
  expect(drawn).toContain("A B");
  expect(drawn).toContain("A A");
});

test("a host says what it has given, how full its stores are, and which guests nobody knows", async () => {
  const guest = { asset: 4, name: "web", state: "running", cores: 2, memory: 4 * 2 ** 30, networks: ["br0"] };
  const host: Schemas["HostOut"] = {
    ...end(1, "salt-hv-01"),
    cores: 16,
    memory: null,
    given_cores: 15,
    given_memory: 2 ** 32,
    guests: [
      { ...guest, snapshots: 0, oldest_at: null, kept: true },
      { ...guest, asset: null, name: "old", snapshots: 2, oldest_at: "2026-05-28T10:00:00Z", kept: false },
    ],
    stores: [{ name: "images", size: 10 * 2 ** 30, full: 95 }],
    cluster: "salt-hosts",
    beside: ["salt-hv-02"],
  };
  serverOf({ "GET /api/me": me("viewer"), "GET /api/services/hosts": { body: [host] } });
  shown = await show(<Hosts filter="" at={undefined} />);
  const text = shown.text();
  for (const words of [
    "15 of 16",
    "of what nobody tells",
    "95 %",
    "2 snapshots, the oldest of",
    "running, may move",
    "of the cluster salt-hosts with salt-hv-02",
  ])
    expect(text).toContain(words);
  const cells = shown.one('section[aria-label="salt-hv-01"]').querySelectorAll("td a");
  expect([...cells].map((a) => a.textContent)).toEqual(["web"]);
});

test("a VLAN opens its devices, and says where it goes by another name", async () => {
  const vlan: Schemas["VlanOut"] = {
    vlan: 20,
    names: ["voice", "phones"],
    switches: { devices: 3, filter: null },
    untagged: 12,
    tagged: 4,
    devices: { devices: 8, filter: "number in (A-00007)" },
    apart: ["salt-sw-21"],
  };
  serverOf({ "GET /api/me": me("viewer"), "GET /api/services/vlans": { body: [vlan] } });
  shown = await show(<Vlans filter="" at={undefined} />);
  expect(shown.text()).toContain("voice, phones");
  expect(shown.text()).toContain("salt-sw-21");
});

test("certificates say when they end, who signed them, and whom their end would turn away", async () => {
  const one: Schemas["CertificateOut"] = {
    fingerprint: "ab",
    subject: "tickets.example",
    names: ["tickets.example", "www.example"],
    issuer: "An authority",
    chain: ["An authority", "A root"],
    self_signed: false,
    begins: null,
    ends: "2026-12-12T00:00:00Z",
    days: 12,
    key: "Ed25519",
    places: [{ ...end(2, "salt-tix-02"), port: 443 }],
    callers: { devices: 28, filter: "kind = kiosk" },
    services: ["Ticketing"],
  };
  const own = { ...one, fingerprint: "cd", self_signed: true, days: -3, services: [], chain: [] };
  serverOf({ "GET /api/me": me("viewer"), "GET /api/services/certificates": { body: [one, own] } });
  shown = await show(<Certificates filter="" at={undefined} />);
  const text = shown.text();
  for (const words of ["and www.example", "in 12 days", "over since", "An authority, and A root above", "itself", "salt-tix-02:443"])
    expect(text).toContain(words); // biome-ignore format: one list of words
});

test("a picture as PDF says truly where each of its parts begins", async () => {
  const jpeg = new Uint8Array([0xff, 0xd8, 0, 200, 0xff, 0xd9]);
  const bytes = new Uint8Array(await pdfOf(jpeg, [20, 10], [10, 5]).arrayBuffer());
  const text = String.fromCharCode(...bytes);
  const table = Number(/startxref\n(\d+)/.exec(text)?.[1]);
  expect(text.slice(table, table + 4)).toBe("xref");
  const places = [...text.slice(table).matchAll(/^(\d{10}) 00000 n/gm)].map((m) => Number(m[1]));
  places.forEach((place, n) => {
    expect(text.slice(place, place + 7)).toBe(`${n + 1} 0 obj`);
  });
  expect(text).toContain("/MediaBox [0 0 7.5 3.75]");
  const inside = text.indexOf("stream\n", text.indexOf("/DCTDecode")) + 7;
  expect([...bytes.slice(inside, inside + jpeg.length)]).toEqual([...jpeg]);
});
