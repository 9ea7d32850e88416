import { afterEach, expect, test } from "vitest";
import { me, type Shown, serverOf, show } from "../../parts/testing";
import { IntakeRules } from "./IntakeRules";
import { Reporters } from "./Reporters";

let shown: Shown;
afterEach(() => shown?.end());

const rule = { id: 2, name: "Crew PCs", filter: "kind = workstation", action: "adopt", reason: "", in_force: true, decided: 12 }; // biome-ignore format: one rule
const answers = {
  "GET /api/me": me("manager"),
  "GET /api/organisations": { body: [] },
  "GET /api/intake/rules": { body: [rule, { ...rule, id: 3, name: "Guests", action: "aside", reason: "a guest's", in_force: false }] }, // biome-ignore format: two rules
  "GET /api/filter/complete": { body: [] },
};

test("a rule is rehearsed, and what was rehearsed is forgotten once the question changes", async () => {
  const called = serverOf({
    ...answers,
    "POST /api/intake/rules/rehearse": { body: { count: 40, first: ["salt-pc-01", "salt-pc-02"] } },
    "POST /api/intake/rules": { body: { ...rule, name: "Guests' phones", decided: 40 } },
  });
  shown = await show(<IntakeRules may />);
  await shown.sees("sets aside: a guest's");
  await shown.click(shown.button("New rule"));
  await shown.type("Name", "Guests' phones");
  await shown.type("Which devices at intake", "kind = phone");
  await shown.click(shown.button("Rehearse"));
  await shown.sees("would decide of 40 devices now: salt-pc-01, salt-pc-02 …");
  await shown.type("Which devices at intake", "kind = tablet");
  expect(shown.text()).not.toContain("would decide of");
  await shown.type("What it does", "aside");
  await shown.act(() => undefined);
  await shown.type("Why", "a guest's");
  await shown.submit();
  expect(called.find((c) => c.call === "POST /api/intake/rules")?.body).toEqual({
    name: "Guests' phones",
    filter: "kind = tablet",
    action: "aside",
    reason: "a guest's",
    organisation: null,
    in_force: true,
  });
  expect(shown.all("dialog").length).toBe(0);
});

test("a question that cannot be read is said beside it, and nothing is in force", async () => {
  const wrong = { status: 422, body: { detail: "There is no field “knid”.", field: "filter", status: 422 } };
  serverOf({ ...answers, "POST /api/intake/rules/rehearse": wrong, "POST /api/intake/rules": wrong });
  shown = await show(<IntakeRules may />);
  await shown.click(shown.button("New rule"));
  await shown.type("Name", "x");
  await shown.type("Which devices at intake", "knid = phone");
  await shown.click(shown.button("Rehearse"));
  await shown.sees("There is no field “knid”.");
  await shown.submit();
  expect(shown.all("dialog").length).toBe(1);
});

test("a rule is taken out of force, put in again and dropped", async () => {
  const called = serverOf({
    ...answers,
    "PUT /api/intake/rules/2": { body: rule },
    "PUT /api/intake/rules/3": { body: rule },
    "DELETE /api/intake/rules/2": { status: 204, body: undefined },
  });
  shown = await show(<IntakeRules may />);
  await shown.click(shown.button("Take out of force"));
  await shown.click(shown.button("Put in force"));
  await shown.click(shown.button("Drop"));
  const done = called.filter((c) => !c.call.startsWith("GET ")).map((c) => [c.call, c.body]);
  expect(done).toEqual([
    ["PUT /api/intake/rules/2", { in_force: false }],
    ["PUT /api/intake/rules/3", { in_force: true }],
    ["DELETE /api/intake/rules/2", undefined],
  ]);
});

test("whoever may not decide sees the rules and no way to change them", async () => {
  serverOf(answers);
  shown = await show(<IntakeRules may={false} />);
  await shown.sees("Crew PCs");
  const words = shown.all("button").map((b) => b.textContent);
  for (const act of ["New rule", "Drop", "Put in force", "Take out of force"])
    expect(words).not.toContain(act);
});

const enrolment = { id: 5, name: "Crew laptops", made_at: 1_790_000_000, withdrawn: false, reporters: 3, last_seen: null }; // biome-ignore format: one enrolment

test("the scripts of an enrolment are given once, whole, with how they are run", async () => {
  const called = serverOf({
    ...answers,
    "GET /api/reporters/enrolments": { body: [enrolment, { ...enrolment, id: 6, name: "Old", withdrawn: true }] },
    "POST /api/reporters/enrolments": { body: { id: 7, name: "Ships", posix: "print('é')", powershell: "Write-Host 1" } },
  }); // biome-ignore format: three answers
  shown = await show(<Reporters />);
  await shown.sees("Crew laptops");
  expect(shown.text()).toContain("none yet");
  expect(shown.all(".tag").map((t) => t.textContent)).toEqual(["withdrawn"]);
  await shown.click(shown.button("New enrolment"));
  await shown.type("For which computers", "Ships");
  await shown.submit();
  expect(called.find((c) => c.call === "POST /api/reporters/enrolments")?.body).toEqual({
    name: "Ships",
    organisation: null,
  });
  const [posix, powershell] = shown.all("a[download]");
  expect(posix?.getAttribute("download")).toBe("tarn-reporter.py");
  expect(decodeURIComponent(posix?.getAttribute("href") ?? "")).toContain("print('é')");
  expect(decodeURIComponent(powershell?.getAttribute("href") ?? "")).toContain("Write-Host 1");
  expect(shown.text()).toContain("sudo python3 tarn-reporter.py");
  await shown.click(shown.button("Done"));
  expect(shown.text()).not.toContain("Write-Host");
});

test("where there is no enrolment it is said what a reporter is", async () => {
  serverOf({ ...answers, "GET /api/reporters/enrolments": { body: [] } });
  shown = await show(<Reporters />);
  await shown.sees("None yet. A reporter is one script");
});
