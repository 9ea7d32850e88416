import { afterEach, beforeEach, expect, test, vi } from "vitest";
import { Shell } from "./Shell";
import { me, type Shown, serverOf, show } from "./testing";

const went: { to?: string; search?: unknown; replace?: boolean }[] = [];
let search: Record<string, string> = {};
let path = "/estate";
vi.mock("@tanstack/react-router", () => ({
  useSearch: () => search,
  useNavigate: () => async (to: object) => void went.push(to),
  useRouterState: ({ select }: { select: (s: object) => unknown }) =>
    select({ location: { pathname: path, href: `${path}?q=x` } }),
  useRouter: () => ({ subscribe: () => () => undefined }),
  Outlet: () => <p>the room</p>,
  Link: (props: { children: unknown; to?: string; "aria-current"?: "page" }) => (
    <a href={`#${props.to}`} aria-current={props["aria-current"]}>
      {props.children as never}
    </a>
  ),
}));

let shown: Shown;
beforeEach(() => {
  went.length = 0;
  search = {};
  path = "/estate";
  vi.stubGlobal("matchMedia", () => ({ matches: false, addEventListener() {}, removeEventListener() {} }));
});
afterEach(() => {
  shown?.end();
  vi.unstubAllGlobals();
});

const who = (role: Parameters<typeof me>[0], more: object = {}) => ({
  body: { ...(me(role).body as object), ...more },
});
const answers = (more: object = {}) => ({
  "GET /api/me": who("manager", { full_name: "Ines Kestrel" }),
  "GET /api/intake/count": { body: { waiting: 7 } },
  "GET /api/runs": { body: [] },
  "GET /api/branches": { body: { trees: [] } },
  ...more,
});

test("the rooms are named, the one we are in is marked, and intake's count stands at its door", async () => {
  serverOf(answers());
  shown = await show(<Shell />);
  await shown.sees("the room");
  const rooms = shown.all("nav[aria-label=Rooms] a");
  expect(rooms.map((a) => a.textContent)).toEqual([
    "Today",
    "Discovery7 at intake",
    "Estate",
    "Software",
    "Licences",
    "Lifecycle",
    "Exposure",
    "Services",
    "Reports",
  ]);
  expect(rooms.filter((a) => a.getAttribute("aria-current")).map((a) => a.textContent)).toEqual(["Estate"]);
  expect(shown.one("a[href='#main']").textContent).toBe("Skip to the page");
});

test.each(["/assets/3", "/people", "/branches", "/sets/4", "/kinds", "/fill-rules", "/tasks"])(
  "%s is in the estate's room",
  async (address) => {
    path = address;
    serverOf(answers());
    shown = await show(<Shell />);
    await shown.sees("the room");
    expect(shown.one("nav [aria-current]").textContent).toBe("Estate");
  },
);

test("whoever is not signed in is sent to sign in, and back to where they were", async () => {
  serverOf(answers({ "GET /api/me": { body: null } }));
  shown = await show(<Shell />);
  expect(went).toEqual([{ to: "/sign-in", search: { to: "/estate?q=x" }, replace: true }]);
  expect(shown.text()).not.toContain("the room");
});

test.each(["/sign-in", "/acknowledge/abc"])("%s needs nobody to be signed in", async (address) => {
  path = address;
  serverOf(answers({ "GET /api/me": { body: null } }));
  shown = await show(<Shell />);
  expect(shown.text()).toContain("the room");
  expect(went).toEqual([]);
});

test("whoever owes a second factor is kept at the settings", async () => {
  serverOf(answers({ "GET /api/me": who("manager", { factor_wanted: true }) }));
  shown = await show(<Shell />);
  expect(went[0]).toEqual({ to: "/settings", search: {} });
});

test("a warning is said over every room; of the past the whole application is edged", async () => {
  search = { at: "2026-03-01" };
  serverOf(answers({ "GET /api/me": who("manager", { warning: "This demo's passwords are published." }) }));
  shown = await show(<Shell />);
  await shown.sees("This demo's passwords are published.");
  expect(shown.all(".in-the-past").length).toBe(1);
  expect(shown.one("[role=alert]").textContent).toBe("This demo's passwords are published.");
});

test("what runs is found again from everywhere", async () => {
  serverOf(
    answers({
      "GET /api/runs": {
        body: [
          { id: 4, state: "running" },
          { id: 5, state: "running" },
        ],
      },
    }),
  );
  shown = await show(<Shell />);
  await shown.sees("2 running");
  shown.end();
  serverOf(answers({ "GET /api/runs": { body: [{ id: 4, state: "paused" }] } }));
  shown = await show(<Shell />);
  await shown.sees("1 paused");
});

test("the colours are turned and kept, and one signs out before anything is forgotten", async () => {
  const called = serverOf(
    answers({
      "DELETE /api/account/browser/v1/auth/session": { status: 401, body: {} },
      "GET /api/csrf": { body: {} },
    }),
  );
  shown = await show(<Shell />);
  await shown.sees("Ines Kestrel");
  expect(shown.text()).toContain("IK");
  await shown.click(shown.button("Night colours"));
  expect(document.documentElement.dataset.theme).toBe("tarn-night");
  await shown.click(shown.button("Day colours"));
  expect(document.documentElement.dataset.theme).toBe("tarn");
  await shown.click(shown.button("Sign out"));
  expect(called.some((c) => c.call.startsWith("DELETE"))).toBe(true);
  expect(went).toEqual([{ to: "/sign-in", search: {} }]);
});

test("a sign-out that is refused is said, and one stays where one is", async () => {
  const refused = { status: 500, body: { errors: [{ message: "The database is busy." }] } };
  serverOf(
    answers({ "DELETE /api/account/browser/v1/auth/session": refused, "GET /api/csrf": { body: {} } }),
  );
  shown = await show(<Shell />);
  await shown.sees("Ines Kestrel");
  await shown.click(shown.button("Sign out"));
  await shown.sees("The database is busy.");
  expect(went).toEqual([]);
  expect(shown.text()).toContain("the room");
});
