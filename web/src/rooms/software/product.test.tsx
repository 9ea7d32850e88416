import { afterEach, expect, test, vi } from "vitest";
import type { Schemas } from "../../api/client";
import { me, type Shown, serverOf, show } from "../../parts/testing";
import { CorrectDialog, Names } from "./Names";
import { ProductPage } from "./ProductPage";

let question = "";
vi.mock("@tanstack/react-router", () => ({
  useParams: () => ({ product: "5" }),
  useSearch: () => ({ q: question || undefined }),
  useNavigate: () => vi.fn(),
  Link: (props: { children: unknown; search?: { q?: string } }) => (
    <a href={`#${props.search?.q ?? ""}`}>{props.children as never}</a>
  ),
}));

let shown: Shown;
afterEach(() => {
  question = "";
  shown?.end();
});

const release = (version: string, devices: number, newest: boolean, verdict = "tolerated") => ({
  version,
  devices,
  newest,
  verdict,
  since: "2026-01-05T00:00:00Z",
});
const product: Schemas["ProductOut"] = {
  id: 5,
  name: "Quill Office",
  publisher: "Quill",
  devices: 14,
  verdict: "tolerated",
  why: "the phrase @suites",
  releases: [release("16.1", 9, true), release("15.2", 4, false, "barred"), release("", 1, false)],
  listed: [
    { name: "Quill Office 16.1 (x64)", publisher: "Quill", role: "product", edition: "Team", arch: "x64",
      language: "", understood: true, why: ["the release was taken off"], devices: 9 },
  ],
  year: [
    { at: "2025-12-01T00:00:00Z", devices: 3 },
    { at: "2026-11-30T00:00:00Z", devices: 14 },
  ],
}; // biome-ignore format: one product
const waves = { waves: [], changes: 0, since: "2026-11-01T00:00:00Z", until: "2026-11-30T00:00:00Z" };
const answers = {
  "GET /api/me": me("manager"),
  "GET /api/software/products/5": { body: product },
  "GET /api/software/changes": { body: waves },
  "GET /api/filter/complete": { body: [] },
};
const opens = () => shown.all("tbody a[href]").map((a) => [a.textContent, a.getAttribute("href")?.slice(1)]);

test("each release opens exactly its devices, within whatever was asked", async () => {
  serverOf(answers);
  shown = await show(<ProductPage />);
  await shown.sees("5 devices behind the newest");
  expect(opens()).toEqual([
    ["9", 'software[product = "Quill Office" and version = 16.1]'],
    ["4", 'software[product = "Quill Office" and version = 15.2]'],
    ["1", 'software[product = "Quill Office"]'],
  ]);
  shown.end();
  question = "kind = server or kind = till";
  serverOf(answers);
  shown = await show(<ProductPage />);
  await shown.sees("5 devices behind the newest");
  expect(opens()[0]?.[1]).toBe(
    '(kind = server or kind = till) and software[product = "Quill Office" and version = 16.1]',
  );
  expect(shown.text()).toContain("within kind = server or kind = till");
});

test("a release that is ruled on otherwise says so; one alike does not repeat it", async () => {
  serverOf(answers);
  shown = await show(<ProductPage />);
  await shown.sees("the phrase @suites");
  const verdicts = shown
    .all("table[aria-label='Which releases are out there'] tbody tr")
    .map((r) => r.textContent);
  expect(verdicts[1]).toMatch(/barred/i);
  expect(verdicts[0]).not.toMatch(/tolerated/i);
  expect(shown.text()).toContain("product, Team, x64");
  expect(shown.text()).toContain("none told"); // a release nobody names
});

test("whoever only looks may neither rule, uninstall nor correct", async () => {
  serverOf({ ...answers, "GET /api/me": me("viewer") });
  shown = await show(<ProductPage />);
  await shown.sees("Quill Office");
  const words = shown.all("button").map((b) => b.textContent);
  for (const act of ["Rule on it", "Uninstall", "Correct"]) expect(words).not.toContain(act);
});

test("a listed name is corrected from where it stands, rehearsed first", async () => {
  const called = serverOf({
    ...answers,
    "POST /api/names/corrections/rehearse": {
      body: [{ name: "QO 16", before: "QO", after: "Quill Office" }],
    },
    "POST /api/names/corrections": { body: { changed: 1 } },
  });
  shown = await show(<ProductPage />);
  await shown.click(shown.button("Correct"));
  await shown.type("the product is", "Quill Office");
  await shown.click(shown.button("Rehearse"));
  await shown.sees("1 listed name would change:");
  expect(shown.text()).toContain("QO → Quill Office");
  await shown.type("Note", "as bought");
  expect(shown.text()).not.toContain("would change"); // what was rehearsed is no longer what is asked
  await shown.submit();
  expect(called.find((c) => c.call === "POST /api/names/corrections")?.body).toEqual({
    field: "name",
    match: "Quill Office 16.1 (x64)",
    product: "Quill Office",
    publisher: "",
    role: "",
    note: "as bought",
  });
});

test("a correction that changes nothing says so, one that cannot stand says why", async () => {
  serverOf({
    ...answers,
    "POST /api/names/corrections/rehearse": { body: [] },
    "POST /api/names/corrections": {
      status: 422,
      body: { detail: "Say what it is: a product, a publisher or a role.", status: 422 },
    },
  });
  const close = vi.fn();
  shown = await show(<CorrectDialog field="product" match="QO" close={close} />);
  await shown.click(shown.button("Rehearse"));
  await shown.sees("Nothing would change.");
  await shown.submit();
  await shown.sees("Say what it is: a product, a publisher or a role.");
  expect(close).not.toHaveBeenCalled();
});

test("names nothing understands are said what they are; a correction is dropped", async () => {
  const correction = { id: 8, field: "product", match: "/^qo/", product: "Quill Office", publisher: "Quill", role: "",
    note: "", made_by: "ines" }; // biome-ignore format: one correction
  const called = serverOf({
    ...answers,
    "GET /api/software/names": {
      body: [{ name: "Qy", publisher: "", devices: 2, why: ["no rule", "no release"] }],
    },
    "GET /api/names/corrections": { body: [correction] },
    "DELETE /api/names/corrections/8": { status: 204, body: undefined },
  });
  shown = await show(<Names />);
  await shown.sees("no rule; no release");
  expect(shown.text()).toContain("Quill Office, by Quill");
  await shown.click(shown.button("Drop"));
  expect(called.some((c) => c.call === "DELETE /api/names/corrections/8")).toBe(true);
  await shown.click(shown.button("Say what it is"));
  expect(shown.all("dialog input").map((i) => (i as HTMLInputElement).value)).toContain("Qy");
});
