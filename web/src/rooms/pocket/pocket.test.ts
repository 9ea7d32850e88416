import "fake-indexeddb/auto";
import { beforeEach, expect, test } from "vitest";
import { serverOf } from "../../parts/testing";
import { bare, resolve, seemsElsewhere } from "./resolve";
import { send } from "./sending";
import { type Device, forget, here, keep, packOf, packs, takeAlong, waiting } from "./store";

const device = (number: string, more: Partial<Device> = {}): Device => ({
  number,
  name: "",
  kind: "switch",
  model: "",
  serial: "",
  place: "Saltholm",
  heard: null,
  codes: [],
  met: false,
  ...more,
});
const pack = (id: number) => ({
  id,
  number: `C-000${id}`,
  name: "Autumn",
  state: "open",
  places: ["Saltholm"],
  counters: {},
  devices: [device("A-1")],
});
const met = (key: string, more: object = {}) =>
  keep({ key, count: 1, how: "scan", code: key, place: "Saltholm", note: "", at: 5, ...more });
const told = (key: string, more: object = {}) => ({
  key,
  id: 7,
  state: "found",
  number: "A-1",
  name: "",
  place: "",
  trouble: "",
  beside: [],
  ...more,
});
const POST = "POST /api/counts/1/met";

beforeEach(async () => {
  await forget();
});

test("a code leads to its device by label, number, serial or name, and to none where two have the name", () => {
  const devices = [
    device("A-1", { name: "salt-sw-01", codes: ["K7MQ2XRTA"] }),
    device("A-2", { serial: "SE2K", name: "twin" }),
    device("A-3", { name: "twin" }),
  ];
  const to = (code: string) => resolve(devices, code)?.number;
  expect(to("https://tarn.example/l/K7MQ2XRTA")).toBe("A-1");
  expect(to("k7m q2x-rta")).toBe("A-1");
  expect(to(" a-2 ")).toBe("A-2");
  expect(to("se2k")).toBe("A-2");
  expect(to("twin")).toBeUndefined();
  expect(to("https://shop.example/item/7")).toBeUndefined();
  expect(to("  ")).toBeUndefined();
  expect(bare("http://10.0.0.1:8000/l/ABC?x=1")).toBe("http://10.0.0.1:8000/l/ABC?x=1");
  expect(seemsElsewhere(device("A-1"), "Port Averne")).toBe(true);
  expect(seemsElsewhere(device("A-1"), "")).toBe(false);
});

test("what was met goes in its order, and is done with once Tarn has noted it", async () => {
  await met("first-key");
  await met("second-key");
  const called = serverOf({
    [POST]: (body) => ({ body: (body as { met: { key: string }[] }).met.map((m) => told(m.key)) }),
  });
  const sent = await send();
  expect(sent.reached).toBe(true);
  const body = called[0]?.body as { met: { key: string; at: number }[]; sent_at: number };
  expect(body.met.map((m) => m.key)).toEqual(["first-key", "second-key"]);
  expect(body.sent_at).toBeGreaterThan(1_700_000_000);
  expect(await waiting()).toEqual([]);
});

test("without signal all stays as it is", async () => {
  await met("first-key");
  serverOf({}, () => {
    throw new TypeError("Failed to fetch");
  });
  expect((await send()).reached).toBe(false);
  expect((await waiting(1)).map((w) => w.key)).toEqual(["first-key"]);
});

test("who is signed out keeps what was met, and a server that fails takes nothing away", async () => {
  await met("first-key");
  for (const status of [401, 500]) {
    serverOf({ [POST]: { status, body: { title: "No", status, detail: "Not now." } } });
    expect((await send()).reached).toBe(false);
    expect((await waiting()).map((w) => w.trouble)).toEqual([undefined]);
  }
});

test("what is refused stays with the words of the refusal, and holds no other up", async () => {
  await met("good-key");
  await met("odd-key");
  await met("shut-key", { count: 2 });
  serverOf({
    [POST]: {
      body: [
        told("good-key"),
        told("odd-key", { id: null, state: null, trouble: "It stands for 2 devices." }),
      ],
    },
    "POST /api/counts/2/met": {
      status: 422,
      body: { title: "No", status: 422, detail: "C-0002 is closed." },
    },
  });
  await send();
  expect((await waiting()).map((w) => [w.key, w.trouble])).toEqual([
    ["odd-key", "It stands for 2 devices."],
    ["shut-key", "C-0002 is closed."],
  ]);
});

test("a photo is sent after what it is of", async () => {
  await met("first-key", { photo: new TextEncoder().encode("picture").buffer });
  const called = serverOf({
    [POST]: { body: [told("first-key")] },
    "POST /api/papers-of/met/7": { body: [] },
  });
  await send();
  expect(called.map((c) => c.call)).toEqual([POST, "POST /api/papers-of/met/7"]);
  expect(await waiting()).toEqual([]);
});

test("what one person took along is put away when another signs in, and all of it when they sign out", async () => {
  await here({ username: "wren", full_name: "Wren" });
  await takeAlong(pack(1), "wren");
  await met("first-key");
  expect((await packOf(1))?.who).toBe("wren");
  await here({ username: "oona", full_name: "Oona" });
  expect(await packs()).toEqual([]);
  expect(await waiting()).toHaveLength(1);
  await forget();
  expect(await waiting()).toEqual([]);
});
