import { afterEach, expect, test, vi } from "vitest";
import type { Schemas } from "../../api/client";
import { me, type Shown, serverOf, show } from "../../parts/testing";
import { PersonPage } from "./PersonPage";

let dial: string | undefined;
vi.mock("@tanstack/react-router", () => ({
  useParams: () => ({ person: "Una Skerry" }),
  useSearch: () => ({ at: dial }),
  useNavigate: () => vi.fn(),
  useRouterState: () => "/people",
  Link: (props: { children: unknown; search?: { q?: string } }) => (
    <a href={`#${props.search?.q ?? ""}`}>{props.children as never}</a>
  ),
}));

let shown: Shown;
afterEach(() => {
  dial = undefined;
  shown?.end();
});

const device = {
  id: 1,
  number: "A-1",
  name: "salt-pc-01",
  kind: "laptop",
  place: "Saltholm",
  department: null,
};
const una: Schemas["PersonPageOut"] = {
  name: "Una Skerry",
  department: "Ticketing",
  title: "Clerk",
  email: "una@skerrivane.example",
  account: "una",
  groups: ["crew"],
  sources: ["Directory", "Personnel"],
  joined_at: null,
  left_at: null,
  filter: 'person = "Una Skerry"',
  held: [device],
  used: [{ ...device, id: 2, name: null, theirs: false }],
  before: [{ id: 3, name: "salt-pc-09", since: "2025-01-01T00:00:00Z", until: null }],
  software: [{ name: "Quill Office", devices: 2 }],
};
const answers = (more: object = {}) => ({
  "GET /api/me": me("viewer"),
  "GET /api/persons/one": { body: { ...una, ...more } },
});

test("a person is said with what they hold, use and have held, and what knows of them", async () => {
  const called = serverOf(answers());
  shown = await show(<PersonPage />);
  await shown.sees("Clerk, Ticketing");
  expect(shown.text().replace(/\s+/g, " ")).toContain(
    "Known from Directory, Personnel; signs in as una; una@skerrivane.example; in crew.",
  );
  expect(called.find((c) => c.call === "GET /api/persons/one")?.query).toBe("?name=Una%20Skerry");
  expect(shown.one("a[href='#person = \"Una Skerry\"']").textContent).toBe("1 device");
  for (const said of ["salt-pc-01", "A-1", "salt-pc-09", "Quill Office"])
    expect(shown.text()).toContain(said);
});

test("whoever has left and holds something still is said to owe it", async () => {
  serverOf(answers({ left_at: "2026-06-30T00:00:00Z" }));
  shown = await show(<PersonPage />);
  await shown.sees("1 device still to be given back.");
});

test("one no system knows, without an account or a device, is said so", async () => {
  serverOf(
    answers({
      sources: [],
      account: "",
      email: "",
      groups: [],
      held: [],
      used: [],
      before: [],
      software: [],
    }),
  );
  shown = await show(<PersonPage />);
  await shown.sees("Known to no system: named only as a holder.");
  expect(shown.text()).toContain("Nothing now.");
  expect(shown.text()).toContain("Their account is not known.");
});

test("of a day in the past it is said of that day", async () => {
  dial = "2026-03-01";
  const called = serverOf(answers({ held: [] }));
  shown = await show(<PersonPage />);
  await shown.sees("Nothing on that day.");
  expect(called.find((c) => c.call === "GET /api/persons/one")?.query).toContain("as_of=2026-03-01");
});
