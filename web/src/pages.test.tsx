import { createMemoryHistory, RouterProvider } from "@tanstack/react-router";
import { afterEach, beforeEach, describe, expect, test, vi } from "vitest";
import { answered, type Fill } from "./parts/sample";
import { me, type Shown, serverOf, show } from "./parts/testing";
import { routerOf } from "./router";

/** Every page, and every tab of it, by its address. */
const PAGES = [
  "/estate", "/estate?tab=software", "/estate?tab=changes", "/estate?tab=money", "/estate?tab=networks", "/estate?tab=crosscheck",
  "/estate?q=kind%20%3D%20server&peek=3", "/assets/3",
  "/discovery", "/discovery/runs/3", "/discovery/trials/3", "/discovery/sources/3", "/discovery/sources/new",
  "/discovery/imports", "/discovery/imports/3", "/discovery/intake",
  "/software", "/software?tab=changes", "/software?tab=rulings", "/software?tab=baselines",
  "/software?tab=administrators", "/software?tab=protection", "/software?tab=names", "/software/products/3",
  "/licences", "/licences?tab=owned", "/licences?tab=keys", "/licences?tab=purchases", "/licences?tab=idle",
  "/licences?tab=warnings", "/licences?tab=remedy", "/licences?tab=next", "/licences/3",
  "/lifecycle", "/lifecycle?tab=contracts", "/lifecycle?tab=orders", "/lifecycle?tab=stock",
  "/lifecycle?tab=hand-overs", "/lifecycle?tab=refresh", "/lifecycle?tab=money", "/lifecycle?tab=payments",
  "/lifecycle?tab=steps", "/lifecycle/contracts/3", "/acknowledge/abc",
  "/exposure", "/exposure?tab=advisories", "/exposure?tab=places", "/exposure?tab=accepted", "/exposure?tab=names", "/exposure?tab=year", "/exposure?tab=own", "/exposure?tab=support", "/exposure?tab=promises", "/exposure/grading", "/exposure/advisories/CVE-2026-99041007",
  "/exposure/feeds", "/exposure/feeds/3", "/exposure/feeds/new", "/estate?tab=exposure",
  "/estate?tab=map&q=place%20%3D%20Saltholm", "/services", "/services/1", "/services?tab=stops&q=name%20%3D%20salt-db-01", "/services?tab=singles", "/services?tab=links", "/services?tab=subnets", "/services?tab=talk", "/services?tab=vlans", "/services?tab=hosts", "/services?tab=racks", "/services?tab=certificates", "/services?tab=between", "/services?tab=inquiry", "/services?tab=inquiry&q=10.60.4.22", "/services?tab=programs", "/services?tab=noise",
  "/reports", "/reports?tab=watches", "/reports?tab=mailbox", "/reports/compose", "/reports/sql", "/reports/by-place",
  "/sets", "/sets?tab=phrases", "/sets/3", "/people", "/people/Una%20Skerry", "/branches", "/kinds", "/fill-rules",
  "/tasks", "/tasks/3", "/settings", "/sign-in",
]; // biome-ignore format: a list of addresses

const plate = { id: 3, number: "A-00003", name: "salt-pc-01", kind: "workstation", standing: "register", state: "in use",
  first_seen: "2026-03-01T10:00:00Z", last_seen: "2026-03-01T10:00:00Z", "os.name": "Linux", marks: ["sweep"] }; // biome-ignore format: one plate
const registry = { lists: [], groups: {}, bands: ["kind", "place"], fields: [
  { name: "name", type: "text", label: "Name", meaning: "", choices: [] },
  { name: "kind", type: "choice", label: "Kind", meaning: "", choices: ["server"] }] }; // biome-ignore format: two fields

/** What the description of the API leaves open, because its keys are names of fields. */
function open(fill: Fill): Record<string, { body: unknown }> {
  const full = fill === "full";
  const choices = answered("GET /api/sources/choices", "full") as { kinds: object[] };
  const { source } = answered("GET /api/sources/3", fill) as { source: object };
  const licence = answered("GET /api/licences/3", fill) as object;
  const device = { ...plate, mac: null, serial: null, manufacturer: null, model: null, place: null, address: "10.60.4.1",
    sure: 80, reasons: ["it answers like one"], aside_reason: "a guest's" }; // biome-ignore format: one device
  return {
    "GET /api/me": me("administrator"),
    "GET /api/csrf": { body: {} },
    "GET /api/fields": { body: registry },
    "GET /api/tags": { body: full ? { desk: 2 } : {} },
    "POST /api/filter/draft": { body: { type: "group", id: 1, mode: "all", items: full ? [{ type: "set", id: 2, name: "Desks" }] : [] } },
    "GET /api/assets": { body: { total: full ? 1 : 0, of: full ? 2 : 0, sentence: "all", rows: full ? [plate] : [] } },
    "GET /api/assets/3": { body: { plate, claims: full ? { name: { why: "Only one source speaks of it.", said: [{ source_kind: "sweep", source: "night",
      value: "salt-pc-01", since: "2026-03-01T10:00:00Z", confirmed: "2026-03-01T10:00:00Z", believed: true, agrees: true }] } } : {}, items: {},
      software: [], sightings: [], guess: "workstation", sure: 80, guess_reasons: [] } },
    "GET /api/assets/3/peek": { body: { plate, claims: {}, ribbon: [], until: "2026-03-01T10:00:00Z" } },
    "GET /api/assets/3/ribbon": { body: full ? [{ day: "2026-03-01", software: 2 }] : [] },
    "GET /api/sources/choices": { body: { ...choices, kinds: choices.kinds.map((k) => ({ ...k, name: "directory" })) } },
    "GET /api/sources/3": { body: { source: { ...source, kind: "directory" }, syncs: [] } },
    "POST /api/sources": { body: { source: { ...source, kind: "directory" }, syncs: [] } },
    "GET /api/reports/rows": { body: answered("GET /api/reports/rows", "full") },
    "GET /api/software/names": { body: full ? [{ name: "Qy", publisher: "", devices: 2, why: ["no rule"] }] : [] },
    "GET /api/licences/3": { body: { ...licence, former: full ? [{ until: "2026-03-01", terms: { metric: "device", release: "", products: ["Quill"] } }] : [] } },
    "GET /api/set-aside": { body: full ? [device] : [] },
    "GET /api/intake": { body: { total: full ? 1 : 0, shown: full ? 1 : 0, undecided: [], groups: full ? [{ kind: "server",
      manufacturer: null, model: null, place: null, sure: 80, first_seen: "2026-03-01T10:00:00Z", devices: [device] }] : [] } },
    "GET /api/fill-rules/choices": { body: { reads: [], fills: [], when: [], outcomes: {} } },
  }; // biome-ignore format: one answer a line
}

let shown: Shown;
const faults: unknown[] = [];
beforeEach(() => {
  faults.length = 0;
  localStorage.clear();
  vi.spyOn(console, "error").mockImplementation((...said) => void faults.push(said));
  vi.stubGlobal("EventSource", class { addEventListener() {} close() {} }); // biome-ignore format: a stream that says nothing
  vi.stubGlobal("matchMedia", () => ({ matches: false, addEventListener() {}, removeEventListener() {} }));
});
afterEach(() => {
  shown.end();
  vi.restoreAllMocks();
  vi.unstubAllGlobals();
});

/** Each call is refused in words of its own: those still shown of one say nothing of the next. */
const refusal = (call = "") => `The tide is out, so this is not taken: ${call.split("?")[0]}.`;
/** Calls that change nothing although they carry a body. */
const ASKING = /\/(filter|preview|check|plan|rehearse|refresh|open|pasted|auth|test)(\/|$)/;

/** Whether a call would change something, by another way than signing in. */
const changes = ({ call }: { call: string }) =>
  !call.startsWith("GET ") && !ASKING.test(call) && !call.includes("/api/account/");

async function page(address: string, fill: Fill, refuse = false) {
  const fixed = Object.entries(open(fill)).filter(([call]) => !refuse || !changes({ call }));
  const called = serverOf(Object.fromEntries(fixed), (call) => {
    if (call.includes("/api/account/"))
      return {
        body: { status: 200, data: [], meta: { secret: "AB", totp_url: "otpauth://totp/tarn?secret=AB" } },
      };
    if (refuse && changes({ call }))
      return {
        status: 422,
        body: { title: "Refused", status: 422, detail: refusal(call), field: "nothing_drawn" },
      };
    const body = answered(call, fill);
    return body === undefined ? undefined : { body };
  });
  const router = routerOf(createMemoryHistory({ initialEntries: [address] }));
  await router.load();
  shown = await show(<RouterProvider router={router as never} />);
  // Parts are loaded and questions asked one after another: it stands once nothing has changed for a while.
  for (let n = 0, still = 0, before = ""; n < 150 && still < 4; n += 1) {
    await shown.act(() => undefined);
    still = shown.text() === before && shown.all(".loading").length === 0 ? still + 1 : 0;
    before = shown.text();
  }
  return called;
}

const BROKEN = /undefined|NaN|\[object|Invalid Date|could not be drawn|There is no such page/;
const complaints = () => faults.map(String).filter((f) => !/act\(|not wrapped/.test(f));

describe.each(["least", "full"] as const)("with the %s of what the API may answer", (fill) => {
  test.each(PAGES)("%s stands", async (address) => {
    const called = await page(address, fill);
    const text = shown.text();
    expect(
      called
        .filter((c) => answered(c.call, fill) === undefined && !(c.call in open(fill)))
        .map((c) => c.call),
    ).toEqual(called.filter((c) => c.call.includes("/api/account/")).map((c) => c.call));
    expect(text.length, text).toBeGreaterThan(60);
    expect(text).not.toMatch(BROKEN);
    expect(complaints()).toEqual([]);
  });
});

describe("every button of a page can be pressed", () => {
  test.each(PAGES)("%s", async (address) => {
    vi.spyOn(window, "confirm").mockReturnValue(true);
    vi.spyOn(window, "open").mockReturnValue(null);
    await page(address, "full");
    const names = new Set(main().map(nameOf));
    for (const name of names) {
      const button = main().find((b) => nameOf(b) === name);
      if (!button || button.disabled) continue;
      await shown.click(button);
      const said = shown.text();
      expect(said, `after “${name}”`).not.toMatch(BROKEN);
      expect(complaints(), `after “${name}”`).toEqual([]);
      // A form that opened is left again, as it can be by whoever does not want it.
      const leave = shown
        .all("dialog[open] button")
        .find((b) => /^(Leave|Close|Done)$/.test(b.textContent ?? ""));
      if (leave) await shown.click(leave);
      if (shown.all("main").length === 0) break; // it led elsewhere
    }
  });
});

describe("what the server refuses is said, whatever asked for it", () => {
  test.each(PAGES)("%s", async (address) => {
    vi.spyOn(window, "confirm").mockReturnValue(true);
    const called = await page(address, "full", true);
    const said = async (what: string, act: () => unknown) => {
      const before = called.filter(changes).length;
      await shown.act(act as () => void);
      const sent = called.filter(changes).slice(before);
      if (sent.length > 0)
        expect(shown.text(), `“${what}” sent ${sent[0]?.call}`).toContain(refusal(sent[0]?.call));
    };
    const names = new Set(main().map(nameOf));
    for (const name of names) {
      const button = main().find((b) => nameOf(b) === name);
      if (!button || button.disabled) continue;
      await said(name, () => button.click());
      const form = shown.all("dialog[open] form:not(.modal-backdrop)")[0];
      if (form)
        await said(name, () => form.dispatchEvent(new Event("submit", { bubbles: true, cancelable: true })));
      const inside = () => shown.all("dialog[open] button") as HTMLButtonElement[];
      const drop = inside().find((b) => /^(Drop|Withdraw)/.test(b.textContent ?? ""));
      if (drop) await said(`${name}: ${drop.textContent}`, () => drop.click());
      const leave = inside().find((b) => /^(Leave|Close|Done)$/.test(b.textContent ?? ""));
      if (leave) await shown.click(leave);
      if (shown.all("main").length === 0) break;
    }
  });
});

/** The buttons of a page itself, beside those of the bar that every page has. */
function main(): HTMLButtonElement[] {
  return shown.all("main button").filter((b) => !b.closest("dialog")) as HTMLButtonElement[];
}
const nameOf = (button: HTMLElement) => button.ariaLabel ?? button.textContent?.trim() ?? "";
