import { afterEach, expect, test, vi } from "vitest";
import type { Intake, IntakeDevice } from "../../api/types";
import { me, type Shown, serverOf, show } from "../../parts/testing";
import { IntakePage } from "./Intake";

vi.mock("@tanstack/react-router", () => ({
  useNavigate: () => vi.fn(),
  useSearch: () => ({}),
  Link: (props: { children: unknown }) => <a href="#x">{props.children as never}</a>,
}));

let shown: Shown;
afterEach(() => shown.end());

const device = (id: number, name: string, sure: number, reasons: string[] = []) =>
  ({ id, number: `A-${id}`, name, kind: "camera", manufacturer: "Brightwire", model: "C2", place: "Port Averne",
    address: `10.60.8.${id}`, mac: `02:00:00:00:00:0${id}`, serial: null, sure, reasons,
    first_seen: "2026-11-02T10:00:00Z", aside_reason: null }) as unknown as IntakeDevice; // biome-ignore format: one device
const two = [device(1, "cam-1", 90, ["it answers as a camera"]), device(2, "cam-2", 40)];
const group = { kind: "camera", manufacturer: "Brightwire", model: "C2", place: "Port Averne", sure: 40,
  first_seen: "2026-11-02T10:00:00Z", devices: two }; // biome-ignore format: one group
const waiting = (more: Partial<Intake> = {}) => ({
  body: { groups: [group], total: 2, shown: 2, undecided: [], ...more },
});
const plain = {
  "GET /api/me": me("administrator"),
  "GET /api/set-aside": { body: [] },
  "GET /api/intake/rules": { body: [] },
};

test("those that are left out are not adopted with their group", async () => {
  const called = serverOf({
    ...plain,
    "GET /api/intake": waiting(),
    "POST /api/decide": { body: { assets: 1, entry: 9 } },
  });
  shown = await show(<IntakePage />);
  await shown.sees("2 devices in 1 group");
  expect(shown.text()).toContain("it answers as a camera");
  expect(shown.text()).toContain("told of by other systems, never met on a network");
  expect(shown.text()).toContain("look first");
  await shown.click(shown.one("[aria-label='Choose cam-2']"));
  await shown.click(shown.button("Adopt 1"));
  expect(called.find((c) => c.call === "POST /api/decide")?.body).toEqual({
    assets: [1],
    standing: "register",
    kind: "camera",
  });
});

test("setting aside wants a reason, and what was set aside can be brought back", async () => {
  const called = serverOf({
    ...plain,
    "GET /api/set-aside": { body: [{ ...device(7, "galley-1", 0), aside_reason: "Galley equipment" }] },
    "GET /api/intake": waiting(),
    "POST /api/decide": { body: { assets: 2, entry: 9 } },
  });
  shown = await show(<IntakePage />);
  await shown.sees("2 devices");
  await shown.click(shown.all("section button").find((b) => b.textContent === "Set aside") as HTMLElement);
  await shown.submit();
  expect(called.some((c) => c.call === "POST /api/decide")).toBe(false);
  await shown.type("Why", " A guest's own ");
  await shown.submit();
  expect(called.find((c) => c.call === "POST /api/decide")?.body).toEqual({
    assets: [1, 2],
    standing: "set aside",
    aside_reason: "A guest's own",
  });
  await shown.click(shown.button("Set aside earlier: 1"));
  expect(shown.text()).toContain("Galley equipment");
  await shown.click(shown.button("Bring back"));
  expect(
    called.at(-1)?.body ?? called.filter((c) => c.call === "POST /api/decide").at(-1)?.body,
  ).toBeDefined();
  expect(called.filter((c) => c.call === "POST /api/decide").at(-1)?.body).toEqual({
    assets: [7],
    standing: "intake",
    aside_reason: null,
  });
});

test("a long intake says that not all is shown, an empty one that all is decided", async () => {
  serverOf({ ...plain, "GET /api/intake": waiting({ total: 900 }) });
  shown = await show(<IntakePage />);
  await shown.sees("The first 2 of 900 are shown");
  shown.end();
  serverOf({ ...plain, "GET /api/intake": waiting({ groups: [], total: 0, shown: 0 }) });
  shown = await show(<IntakePage />);
  await shown.sees("Everything found has been decided.");
});

test("whoever may not decide sees what waits and no button", async () => {
  serverOf({ ...plain, "GET /api/me": me("viewer"), "GET /api/intake": waiting() });
  shown = await show(<IntakePage />);
  await shown.sees("2 devices");
  expect(shown.all("button").some((b) => b.textContent?.startsWith("Adopt"))).toBe(false);
});
