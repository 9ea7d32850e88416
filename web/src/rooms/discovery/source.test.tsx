import { afterEach, expect, test, vi } from "vitest";
import type { Schemas } from "../../api/client";
import { me, type Shown, serverOf, show } from "../../parts/testing";
import { SourcePage } from "./SourcePage";

const gone = vi.fn();
vi.mock("@tanstack/react-router", () => ({
  useNavigate: () => gone,
  useParams: () => ({ source: "new" }),
  Link: (props: { children: unknown }) => <a href="#x">{props.children as never}</a>,
}));

let shown: Shown;
afterEach(() => shown.end());

const setting = (name: string, label: string, more: Partial<Schemas["SettingOut"]> = {}) => ({
  name, label, type: "text" as const, needed: "", usual: "", options: [], least: 0, most: 1000, ...more,
}); // biome-ignore format: one setting
const kind = (name: string, form: Schemas["SettingOut"][], more: Partial<Schemas["SourceKindOut"]> = {}) => ({
  name, text: `a ${name}`, protocol: "http", must: "", mapped: false, about: false, form, prepared: {}, ...more,
}); // biome-ignore format: one kind
const CHOICES: Schemas["ChoicesOut"] = {
  kinds: [
    kind("directory", [setting("address", "Address", { needed: "Say where." })], {
      protocol: "ldap",
      must: "A directory is asked with an LDAP credential.",
    }),
    kind("service desk", [
      setting("base", "Address of the service", { needed: "Say where." }),
      setting("by", "It knows devices by", { type: "choice", usual: "serial", options: ["serial", "name"] }),
      setting("batch", "At once", { type: "number", usual: 25 }),
    ]),
  ],
  targets: [],
  units: [],
};
const plain = {
  "GET /api/me": me("manager"),
  "GET /api/organisations": { body: [] },
  "GET /api/sources/choices": { body: CHOICES },
  "GET /api/credentials": {
    body: [
      { id: 3, name: "reader", protocol: "ldap" },
      { id: 4, name: "desk key", protocol: "http" },
    ],
  },
};

test("the form is what the kind of source says, with what is usual, and is sent as it stands", async () => {
  const called = serverOf({
    ...plain,
    "POST /api/sources": { body: { source: { id: 9 }, syncs: [] } },
  });
  shown = await show(<SourcePage />);
  await shown.sees("A directory.");
  await shown.sees("Save");
  await shown.sees("reader");
  expect(shown.all("select option").map((o) => o.textContent)).toContain("reader");
  expect(shown.text()).toContain("choose one");
  await shown.type("Kind", "service desk");
  expect(shown.text()).not.toContain("reader");
  await shown.type("Name", "Harbour desk");
  await shown.type("Address of the service", "https://desk.skerrivane.example");
  await shown.type("It knows devices by", "name");
  await shown.type("At once", "40");
  await shown.type("Syncs", "day");
  await shown.click(shown.button("Save"));
  expect(called.find((c) => c.call === "POST /api/sources")?.body).toMatchObject({
    name: "Harbour desk",
    kind: "service desk",
    schedule: "FREQ=DAILY;BYHOUR=7;BYMINUTE=0",
    settings: { base: "https://desk.skerrivane.example", by: "name", batch: 40 },
  });
  expect(gone).toHaveBeenCalled();
});

test("a test shows a sample and stores nothing; what is wrong stands at its setting", async () => {
  let answer: { status?: number; body: unknown } = {
    status: 422,
    body: { detail: "Say at which address the directory answers.", field: "settings.address", status: 422 },
  };
  const called = serverOf({ ...plain, "POST /api/sources/test": () => answer });
  shown = await show(<SourcePage />);
  await shown.sees("A directory.");
  await shown.sees("Save");
  await shown.click(shown.button("Test"));
  expect(shown.text()).toContain("Say at which address the directory answers.");
  answer = {
    body: { found: 1, took_ms: 40, problem: "", remedy: "", faults: [{ says: "cores: no number", count: 2 }],
      sample: [{ key: "k", label: "salt-1", facts: { serial: "HB-1" } }] }, // biome-ignore format: one answer
  };
  await shown.type("Address", "10.60.4.60");
  await shown.click(shown.button("Test"));
  await shown.sees("salt-1");
  expect(shown.text()).toContain("cores: no number");
  expect(called.some((c) => c.call === "POST /api/sources")).toBe(false);
});
