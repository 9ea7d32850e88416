import { afterEach, expect, test, vi } from "vitest";
import type { Schemas } from "../../api/client";
import { me, type Shown, serverOf, show } from "../../parts/testing";
import { LicenceForm } from "./LicenceForm";

const went: unknown[] = [];
vi.mock("@tanstack/react-router", () => ({
  useNavigate: () => (to: unknown) => void went.push(to),
  Link: () => null,
}));

let shown: Shown;
afterEach(() => shown?.end());

const metric = (name: string, reads: string[]) => ({ name, unit: `${name}s`, text: `one a ${name}`, reads, records: false }); // biome-ignore format: one metric
const answers = {
  "GET /api/me": me("manager"),
  "GET /api/licences/metrics": {
    body: [
      metric("device", ["pack", "second_device"]),
      metric("core", ["pack", "per_processor", "guests", "per_host"]),
      metric("formula", ["formula"]),
    ],
  },
  "POST /api/licences": { body: { id: 11, name: "Tern Store" } },
};
const labels = () => shown.all("label").map((l) => l.textContent?.trim());

test("the form asks for what the metric reads and for nothing else", async () => {
  serverOf(answers);
  shown = await show(<LicenceForm held={null} close={vi.fn()} product="Tern Store" />);
  await shown.sees("one a device");
  expect(labels()).toContain("In packs of");
  expect(labels()).not.toContain("Cores a processor, at least");
  await shown.type("Counted by", "core");
  expect(labels()).toEqual(expect.arrayContaining(["Cores a processor, at least", "Virtual machines"]));
  expect(labels()).not.toContain("Guests a unit carries");
  await shown.type("Virtual machines", "host");
  expect(labels()).toContain("Guests a unit carries");
  await shown.type("Counted by", "formula");
  expect(labels()).toContain("Formula");
  expect(labels()).not.toContain("In packs of");
  expect(labels()).not.toContain("Amount");
  await shown.type("Paid again", "year");
  expect(labels()).toEqual(expect.arrayContaining(["Amount", "Currency"]));
});

test("a new licence is sent with its lists read line by line, and its page is opened", async () => {
  const called = serverOf(answers);
  const close = vi.fn();
  shown = await show(<LicenceForm held={null} close={close} product="Tern Store" />);
  await shown.sees("one a device");
  await shown.type("Covers", "Tern Store\n\n @suites ");
  await shown.type("Only for departments", "Ticketing\nBridge");
  await shown.type("In packs of", "5");
  await shown.type("Fields of your own", "Agreement: EA-7: part 2\nFile");
  await shown.type("Tags", "a; b");
  await shown.submit();
  expect(called.find((c) => c.call === "POST /api/licences")?.body).toMatchObject({
    name: "Tern Store",
    products: ["Tern Store", "@suites"],
    departments: ["Ticketing", "Bridge"],
    pack: 5,
    extra: { Agreement: "EA-7: part 2", File: "" },
    tags: ["a", " b"],
    starts: null,
    ends: null,
    holds_from: null,
    version: 0,
  });
  expect(close).toHaveBeenCalled();
  expect(went.at(-1)).toMatchObject({ to: "/licences/$licence", params: { licence: "11" } });
});

test("a change is made from the version that was read, from a day on, and a refusal loses nothing", async () => {
  const held = {
    id: 11, name: "Tern Store", publisher: "Tern", metric: "device", products: ["Tern Store"], release: "4",
    downgrade: true, second_device: false, guests: "own", per_host: 1, per_processor: 0, pack: 1, formula: "",
    departments: [], without_limit: false, starts: "2025-01-01", ends: null, maintained_until: null, keys_wanted: false,
    transferable: true, edition: "", shared: false, cost: "", cost_currency: "", cost_every: "", note: "", tags: [],
    extra: { Agreement: "EA-7" }, version: 6,
  } as unknown as Schemas["LicenceOut"]; // biome-ignore format: one licence
  const refused = { status: 409, body: { detail: "piet changed it meanwhile.", status: 409 } };
  const called = serverOf({ ...answers, "PUT /api/licences/11": refused });
  const close = vi.fn();
  shown = await show(<LicenceForm held={held} close={close} />);
  await shown.sees("one a device");
  await shown.type("Release bought", "5");
  await shown.submit();
  await shown.sees("piet changed it meanwhile.");
  const sent = called.find((c) => c.call === "PUT /api/licences/11")?.body as Record<string, unknown>;
  expect(sent).toMatchObject({
    release: "5",
    version: 6,
    extra: { Agreement: "EA-7" },
    starts: "2025-01-01",
  });
  expect(sent.holds_from).toMatch(/^\d{4}-\d\d-\d\d$/);
  expect(close).not.toHaveBeenCalled();
});
