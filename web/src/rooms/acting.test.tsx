import { afterEach, expect, test, vi } from "vitest";
import { TaskDialog } from "../parts/acts/TaskDialog";
import { EnterDialog } from "../parts/own/EnterDialog";
import { fieldsOf, shown as inWords, type Own } from "../parts/own/own";
import { me, type Shown, serverOf, show } from "../parts/testing";
import { RuleForm } from "./filling/RuleForm";
import { FieldForm } from "./kinds/FieldForm";
import { People } from "./people/People";
import { Statements } from "./reports/Statements";
import { Administrators, Protection } from "./software/AdministratorsAndProtection";
import { Scripts } from "./tasks/Scripts";
import { TaskPage } from "./tasks/TaskPage";

const gone = vi.fn();
vi.mock("@tanstack/react-router", () => ({
  useNavigate: () => gone,
  useSearch: () => ({}),
  useParams: () => ({ task: "4" }),
  useRouterState: () => "/people",
  Link: (props: { children: unknown }) => <a href="#x">{props.children as never}</a>,
}));

let shown: Shown;
afterEach(() => {
  shown.end();
  gone.mockClear();
});

const PLANNED = {
  thing: "",
  runs: 1,
  needs_approval: false,
  devices: [
    {
      asset: 1,
      number: "A-1",
      name: "salt-1",
      address: "10.60.4.1",
      shown: "sudo -n systemctl reboot",
      refused: "",
    },
    { asset: 2, number: "A-2", name: "cam-1", address: "", shown: "", refused: "It runs firmware." },
  ],
};

test("a task shows what would run where, and why not elsewhere, before it runs", async () => {
  const called = serverOf({
    "POST /api/tasks/plan": { body: PLANNED },
    "POST /api/tasks": { body: { id: 4 } },
  });
  shown = await show(<TaskDialog filter="kind = server" close={vi.fn()} />);
  expect(shown.text()).toContain("Would run on 1 device, and not on 1");
  expect(shown.text()).toContain("It runs firmware.");
  await shown.type("Why", "kernel");
  await shown.submit();
  expect(called.at(-1)?.body).toMatchObject({
    kind: "restart",
    expected: 1,
    why: "kernel",
    filter: "kind = server",
  });
  expect(gone).toHaveBeenCalled();
});

test("a task for many says that it waits, and a refusal stands at its place", async () => {
  serverOf({
    "POST /api/tasks/plan": { body: { ...PLANNED, needs_approval: true } },
    "POST /api/tasks": { status: 422, body: { detail: "Say why.", field: "why" } },
  });
  shown = await show(<TaskDialog filter="" product={{ id: 3, name: "Driftshare" }} close={vi.fn()} />);
  expect(shown.text()).toContain("Uninstall Driftshare");
  expect(shown.text()).toContain("waits until a second person approves");
  expect(shown.button("Ask for approval").disabled).toBe(false);
  await shown.submit();
  expect(shown.text()).toContain("Say why.");
});

test("a task's page tells how each device fared and what the reading after says", async () => {
  const device = { asset_id: 1, number: "A-1", name: "salt-1", address: "10.60.4.1", shown: "reboot", words: "",
    said: "out", code: 0, credential: "hand", began: 1, ended: 2 }; // biome-ignore format: one device
  const counts = { refused: 0, waiting: 0, worked: 1, failed: 1, stopped: 0, seen: 1, unseen: 1 };
  const called = serverOf({
    "GET /api/me": me("manager"),
    "GET /api/tasks/4": {
      body: {
        id: 4, kind: "restart", title: "Restart", filter: "", why: "kernel", state: "to approve", asked_by: "ines",
        asked_at: 1, decided_by: "", ended_at: null, may_approve: true, counts, script: "",
        devices: [
          { ...device, state: "worked", proof: "seen", proof_words: "Read since: it started after the task." },
          { ...device, asset_id: 2, state: "failed", proof: "not seen", proof_words: "It has not started anew." },
        ],
      },
    },
    "POST /api/tasks/4/approval": { status: 422, body: { detail: "Another person approves." } },
  }); // biome-ignore format: one task
  shown = await show(<TaskPage />);
  expect(shown.text()).toContain("1 worked · 1 failed · 1 seen by a reading since · 1 not borne out");
  expect(shown.text()).toContain("It has not started anew.");
  await shown.click(shown.button("Approve and run"));
  expect(called.at(-1)).toMatchObject({ body: { approve: true } });
  expect(shown.text()).toContain("Another person approves.");
});

test("only another administrator than the writer passes a script", async () => {
  const script = { id: 1, name: "tidy", platform: "Linux", text: "userdel x", meaning: "", written_at: 1,
    reviewed_by: "", reviewed_at: null, version: 1 }; // biome-ignore format: one script
  serverOf({
    "GET /api/me": me("administrator"),
    "GET /api/scripts": {
      body: [
        { ...script, written_by: "ines" },
        { ...script, id: 2, name: "other", written_by: "sten" },
      ],
    },
  });
  shown = await show(<Scripts />);
  expect(shown.all("button").filter((b) => b.textContent === "Pass it for use")).toHaveLength(1);
});

const field = (name: string, more = {}) => ({
  id: 1, name, type: "text", unit: "", choices: [], help: "", group: "", required: false, kinds: [], position: 0,
  many: false, template: "", listed: false, version: 1, filled: 0, ...more,
}); // biome-ignore format: one field
const OWN: Own = {
  fields: [field("Side", { type: "choice", choices: ["port", "starboard"] }), field("Pull", { type: "number", unit: "kN" })],
  kinds: [
    { id: 1, name: "winch", parent: "", icon: "", names: {}, hidden: [], version: 1, assets: 0, fields: ["Pull", "Side"] },
  ],
  types: { text: "words", number: "a number", choice: "one of several" },
}; // biome-ignore format: one company

test("fields are those of the kind, values as people read them", async () => {
  shown = await show(<p />);
  expect(fieldsOf(OWN, "winch").map((f) => f.name)).toEqual(["Pull", "Side"]);
  expect(fieldsOf(undefined, "winch")).toEqual([]);
  expect(inWords(OWN.fields[1], 40)).toBe("40 kN");
  expect(inWords(field("D", { type: "date" }), 1_790_000_000 - (1_790_000_000 % 86_400))).toBe("2026-09-21");
  expect(inWords(field("Y", { type: "yes/no" }), false)).toBe("no");
});

test("an asset is entered with the fields of its kind, and what does not fit stands there", async () => {
  const called = serverOf({
    "GET /api/kinds": { body: OWN },
    "POST /api/register": {
      status: 422,
      body: { detail: "Pull: “much” is not a number.", field: "own:Pull" },
    },
  });
  shown = await show(<EnterDialog close={vi.fn()} />);
  await shown.type("Kind", "winch");
  await shown.type("Name", "winch-1");
  await shown.type("Pull (kN)", "much");
  await shown.submit();
  expect(called.at(-1)?.body).toMatchObject({ kind: "winch", name: "winch-1", own: { Pull: "much" } });
  expect(shown.text()).toContain("“much” is not a number");
});

test("a change of a field that loses values is saved only the second time", async () => {
  const called = serverOf({
    "PUT /api/own-fields/1": (body) =>
      (body as { anyway: boolean }).anyway
        ? { body: OWN }
        : { status: 422, body: { detail: "2 values would not fit: “port” on 2.", field: "type" } },
  });
  const close = vi.fn();
  shown = await show(<FieldForm held={OWN.fields[0] ?? null} own={OWN} close={close} />);
  await shown.submit();
  expect(shown.text()).toContain("2 values would not fit");
  expect(close).not.toHaveBeenCalled();
  shown.button("Change it anyway");
  await shown.submit();
  expect(called.at(-1)?.body).toMatchObject({ anyway: true, choices: ["port", "starboard"] });
  expect(close).toHaveBeenCalled();
});

test("a rule is rehearsed with its table, and nothing is kept by that", async () => {
  const called = serverOf({
    "GET /api/fill-rules/choices": {
      body: {
        fills: [{ name: "place", label: "Place", meaning: "where it stands" }],
        reads: [{ name: "name", label: "Name", meaning: "the host name" }],
        when: { always: "kept in step" },
        outcomes: { fills: "would be filled", pinned: "a person has said otherwise" },
      },
    },
    "POST /api/fill-rules/rehearse": {
      body: {
        assets: 2,
        counts: { fills: 1, pinned: 1, same: 0 },
        notes: ["“Other” asks for place."],
        rows: [
          { asset: 1, name: "salt-1", read: "salt-1", before: null, value: "Saltholm", outcome: "fills", words: "" },
          { asset: 2, name: "salt-2", read: "salt-2", before: "Slipway", value: "Saltholm", outcome: "pinned", words: "ines says so" },
        ],
      },
    },
  }); // biome-ignore format: what the server says
  const rule = { id: 1, name: "Place", filter: "", fills: "place", reads: "name", formula: "", pattern: "^([a-z]+)-",
    compose: "", table: { salt: "Saltholm" }, when: "always", in_force_at: null, version: 3, filled: 0, stands: "filled_by = x" }; // biome-ignore format: one rule
  shown = await show(<RuleForm held={rule} close={vi.fn()} />);
  await shown.click(shown.button("Rehearse"));
  expect(called.at(-1)?.body).toMatchObject({ table: { salt: "Saltholm" }, number: 1, version: 3 });
  expect(shown.one("section[aria-label=Rehearsal]").textContent).toContain(
    "2 assets · 1: would be filled · 1: a person has said otherwise",
  );
  expect(shown.text()).toContain("ines says so");
});

test("people are found by department, and views count them", async () => {
  const person = { department: "", title: "", email: "", account: "", sources: ["Keel"], joined_at: null, left_at: null,
    holds: 0, signed_in: 0, filter: "" }; // biome-ignore format: one person
  serverOf({
    "GET /api/persons": {
      body: [
        { ...person, name: "Nell Stroma", left_at: "2026-11-01T00:00:00Z", holds: 2 },
        { ...person, name: "Una Skerry", department: "Crewing" },
        { ...person, name: "Nobody Known", sources: [] },
      ],
    },
  });
  shown = await show(<People />);
  shown.button("Left, and still hold devices 1");
  shown.button("Hold devices, known to no system 1");
  expect(shown.all("tbody tr")).toHaveLength(3);
});

test("administrators stand on their side of the list, and protection adds up", async () => {
  const account = { person: "", members: [], devices: 1, filter: "x", kind: "local account" };
  serverOf({
    "GET /api/software/administrators": {
      body: {
        rows: [
          { ...account, name: "root", approved: true },
          { ...account, name: "SK\\una", approved: false, person: "Una Skerry" },
        ],
        phrase: "",
        devices: 3,
        unread: 1,
      },
    },
    "GET /api/software/protection": {
      body: { devices: 3, states: [{ label: "on and current", devices: 2, filter: "x" }], none: { devices: 1, filter: "no protections" }, unread: { devices: 0, filter: "u" }, two: { devices: 0, filter: "t" }, products: [] },
    },
  }); // biome-ignore format: what the server says
  shown = await show(
    <>
      <Administrators filter="" at={undefined} />
      <Protection filter="" at={undefined} />
    </>,
  );
  const [others, approved] = shown.all("section");
  expect(others?.textContent).toContain("SK\\unaUna Skerry");
  expect(approved?.textContent).toContain("root");
  expect(shown.text()).toContain("there is none yet, so nobody is approved");
  expect(shown.text()).toContain("None of these tells of a protection product.");
});

test("a statement's rows are shown, its error stands at it", async () => {
  let wrong = false;
  serverOf({
    "GET /api/sql/views": { body: [{ name: "assets", meaning: "Every asset", columns: ["name"] }] },
    "POST /api/sql": () =>
      wrong
        ? { status: 422, body: { detail: "SQLite does not understand it: near SELEC.", field: "statement" } }
        : {
            body: {
              columns: ["name", "n"],
              rows: [
                ["salt-1", 3],
                [null, 4],
              ],
              cut: true,
              seconds: 0.01,
            },
          },
  });
  shown = await show(<Statements />);
  await shown.submit();
  expect(shown.text()).toContain("2 rowsin 0.01 s; there are more");
  expect(shown.all("td.num").map((c) => c.textContent)).toEqual(["3", "4"]);
  wrong = true;
  await shown.submit();
  expect(shown.text()).toContain("SQLite does not understand it");
  expect(shown.all("td")).toHaveLength(0);
});
