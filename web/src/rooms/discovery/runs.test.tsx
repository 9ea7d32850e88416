import { afterEach, beforeEach, expect, test, vi } from "vitest";
import type { Schemas } from "../../api/client";
import { answered } from "../../parts/sample";
import { me, type Shown, serverOf, show } from "../../parts/testing";
import { ImportPage } from "./ImportPage";
import { RunPage } from "./RunPage";
import { SweepForm } from "./SweepForm";

const navigate = vi.fn();
vi.mock("@tanstack/react-router", () => ({
  useNavigate: () => navigate,
  useSearch: () => ({}),
  useParams: () => ({ run: "3", import: "3" }),
  Link: (props: { children: unknown }) => <a href="#x">{props.children as never}</a>,
}));

let shown: Shown;
beforeEach(() => {
  navigate.mockReset();
  vi.stubGlobal("EventSource", class { addEventListener() {} close() {} }); // biome-ignore format: it says nothing
});
afterEach(() => {
  shown.end();
  vi.unstubAllGlobals();
});

const of = <T,>(call: string, changes: object = {}) =>
  ({ ...(answered(call, "full") as object), ...changes }) as T;
const rest = (call: string) => ({ body: answered(call, "full") });

function run(state: string, more: Partial<Schemas["RunPage"]> = {}): Schemas["RunPage"] {
  const page = of<Schemas["RunPage"]>("GET /api/runs/3");
  const address = page.addresses[0] as Schemas["AddressOut"];
  return {
    ...page,
    run: {
      ...page.run,
      id: 3,
      sweep: 7,
      name: "Night",
      state,
      wish: "",
      outcomes: { "fully read": 1, refused: 1 },
    },
    addresses: [
      { ...address, address: "10.60.4.1", outcome: "fully read", reason: "", remedy: "", taken_for: "till-1", asset_id: 9 },
      { ...address, address: "10.60.4.2", outcome: "refused", reason: "The password has expired.", remedy: "Set it anew.", asset_id: null, taken_for: "" },
      { ...address, address: "10.60.4.3", outcome: "no answer", reason: "", remedy: "", asset_id: null, taken_for: "" },
    ], // biome-ignore format: one address a line
    reasons: [
      {
        code: "expired",
        reason: "The password has expired.",
        remedy: "Set it anew.",
        count: 1,
        addresses: ["10.60.4.2"],
        credential: null,
      },
    ],
    networks: [],
    compared: null,
    ...more,
  };
}

test("a run lists what needs a look first, and by outcome what is asked for", async () => {
  serverOf({ "GET /api/me": me("operator"), "GET /api/runs/3": { body: run("done") } }, rest);
  shown = await show(<RunPage />);
  const rows = () => shown.all("table[aria-label='Addresses of the run'] tbody tr").map((r) => r.textContent);
  expect(rows().length).toBe(1);
  expect(rows()[0]).toContain("The password has expired. Set it anew.");
  await shown.click(shown.button("fully read 1"));
  expect(rows()[0]).toContain("till-1");
});

test("what was refused is read again, from its row and from its reason", async () => {
  const called = serverOf(
    {
      "GET /api/me": me("manager"),
      "GET /api/runs/3": { body: run("done") },
      "POST /api/runs/3/again": { body: {} },
    },
    rest,
  );
  shown = await show(<RunPage />);
  const again = shown.all("button").filter((b) => b.textContent === "Read again");
  expect(again.length).toBe(2);
  for (const button of again) await shown.click(button);
  const sent = called.filter((c) => c.call === "POST /api/runs/3/again");
  expect(sent.map((c) => c.body)).toEqual([{ addresses: ["10.60.4.2"] }, { addresses: ["10.60.4.2"] }]);
});

test("a running sweep can be paused and stopped, an ended one run again; who only looks can do neither", async () => {
  const called = serverOf(
    {
      "GET /api/me": me("operator"),
      "GET /api/runs/3": { body: run("running") },
      "POST /api/runs/3/wish": { body: {} },
    },
    rest,
  );
  shown = await show(<RunPage />);
  await shown.click(shown.button("Pause"));
  expect(called.find((c) => c.call === "POST /api/runs/3/wish")?.body).toEqual({ wish: "pause" });
  expect(() => shown.button("Run again")).toThrow();
  shown.end();
  serverOf(
    {
      "GET /api/me": me("operator"),
      "GET /api/runs/3": { body: run("done") },
      "POST /api/sweeps/7/runs": { body: { id: 4 } },
    },
    rest,
  );
  shown = await show(<RunPage />);
  await shown.click(shown.button("Run again"));
  expect(navigate).toHaveBeenCalledWith({ to: "/discovery/runs/$run", params: { run: "4" }, search: {} });
  shown.end();
  serverOf({ "GET /api/me": me("viewer"), "GET /api/runs/3": { body: run("running") } }, rest);
  shown = await show(<RunPage />);
  for (const name of ["Pause", "Stop", "Run again"]) expect(() => shown.button(name)).toThrow();
});

test("a run that cannot be read says so, and is asked for again", async () => {
  let there = false;
  serverOf(
    {
      "GET /api/me": me("viewer"),
      "GET /api/runs/3": {
        status: 404,
        body: { title: "Not found", status: 404, detail: "There is no run 3." },
      },
    },
    rest,
  );
  shown = await show(<RunPage />);
  expect(shown.one("[role=alert]").textContent).toContain("There is no run 3.");
  there = true;
  serverOf({ "GET /api/me": me("viewer"), "GET /api/runs/3": { body: run("done") } }, rest);
  await shown.click(shown.button("Try again"));
  expect(there && shown.text()).toContain("Night");
});

const credential = (id: number, changes: Partial<Schemas["CredentialOut"]>) =>
  of<Schemas["CredentialOut"][]>("GET /api/credentials") &&
  ({
    ...(answered("GET /api/credentials", "full") as Schemas["CredentialOut"][])[0],
    id,
    ...changes,
  } as Schemas["CredentialOut"]);

test("a sweep says while it is typed what its ranges come to, and where they are wrong", async () => {
  const check = vi.fn((body: unknown) =>
    (body as { ranges: string[] }).ranges[0] === "10.60.4.0/24"
      ? { body: { probe: 254, first: "10.60.4.1", last: "10.60.4.254", left_out: 2 } }
      : {
          status: 422,
          body: { title: "No", status: 422, detail: "“10.60.4” is no range.", field: "ranges" },
        },
  );
  serverOf(
    { "GET /api/me": me("manager"), "POST /api/sweeps/check": check, "GET /api/organisations": { body: [] } },
    rest,
  );
  shown = await show(<SweepForm sweep={null} credentials={[]} close={() => {}} />);
  await shown.type("Ranges", "10.60.4");
  await shown.sees("“10.60.4” is no range.");
  await shown.type("Ranges", "10.60.4.0/24");
  await shown.sees("254 addresses from 10.60.4.1 to 10.60.4.254, 2 left out");
});

test("a new sweep may use every credential that reaches, until some are chosen; a refusal stays at its field", async () => {
  const offered = [
    credential(1, { name: "linux", protocol: "ssh", organisation: null }),
    credential(2, { name: "feed", protocol: "http", organisation: null }),
    credential(3, { name: "theirs", protocol: "ssh", organisation: 8 }),
  ];
  const called = serverOf(
    {
      "GET /api/me": me("manager"),
      "GET /api/organisations": { body: [] },
      "POST /api/sweeps/check": { body: { probe: 1, first: "10.60.4.1", last: "10.60.4.1", left_out: 0 } },
      "POST /api/sweeps": {
        status: 422,
        body: { title: "No", status: 422, detail: "There is a sweep “Night” already.", field: "name" },
      },
    },
    rest,
  );
  shown = await show(<SweepForm sweep={null} credentials={offered} close={() => {}} />);
  expect(shown.text()).toContain("linux");
  expect(shown.text()).not.toContain("feed"); // it signs in nowhere
  expect(shown.text()).not.toContain("theirs"); // it is another organisation's
  await shown.type("Name", "Night");
  await shown.type("Ranges", "10.60.4.1");
  await shown.submit();
  const sent = called.find((c) => c.call === "POST /api/sweeps")?.body as Schemas["SweepIn"];
  expect([sent.name, sent.ranges, sent.credentials, sent.at_once, sent.patience, sent.minutes]).toEqual([
    "Night",
    ["10.60.4.1"],
    [1],
    256,
    1.5,
    null,
  ]);
  expect(shown.text()).toContain("There is a sweep “Night” already.");
});

test("a file is rehearsed before it is taken in, and what is open is asked", async () => {
  const held = of<Schemas["ImportOut"]>("GET /api/imports/3", {
    id: 3, state: "mapped", name: "List", file_name: "devices.csv", format: "csv", encoding: "utf-8", heading: 1,
    headings: ["Name", "Bought"], first: [["till-1", "03/04/2026"]], written: {}, counts: {}, progress: 0, total: 0,
    mapping: { name: { from: "Name" } },
  }); // biome-ignore format: one file
  const rehearsed = (questions: object[]) => ({
    counts: { created: 1, refused: 1 },
    rows: [],
    refused: [{ row: 3, why: "It has no name." }],
    questions,
  });
  const called = serverOf(
    {
      "GET /api/me": me("manager"),
      "GET /api/imports/3": { body: held },
      "PUT /api/imports/3": { body: held },
      "POST /api/imports/3/rehearse": { body: rehearsed([]) },
      "POST /api/imports/3/carry-out": { body: { ...held, state: "done", counts: { created: 1 } } },
    },
    rest,
  );
  shown = await show(<ImportPage />);
  expect(shown.button("Take in").disabled).toBe(true);
  await shown.click(shown.button("Rehearse"));
  await shown.sees("It has no name.");
  await shown.click(shown.button("Take in 1 row"));
  expect(called.map((c) => c.call).filter((c) => !c.startsWith("GET "))).toEqual([
    "PUT /api/imports/3",
    "POST /api/imports/3/rehearse",
    "POST /api/imports/3/carry-out",
  ]);
  await shown.sees("Decide at intake");
});
