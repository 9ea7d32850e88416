import { afterEach, expect, test } from "vitest";
import { ApiProblem } from "../api/client";
import { useDraft } from "./draft";
import { FormFoot, TextField, Tick } from "./Form";
import { type Shown, show } from "./testing";

let shown: Shown;
afterEach(() => shown.end());

const problem = (detail: string, field?: string) =>
  new ApiProblem({ title: "Not taken", status: 422, detail, ...(field ? { field } : {}) });

/** A form that is refused by `refusals` in turn, and tells what it was sent. */
function Form({ refusals, sent, changed }: { refusals: unknown[]; sent: unknown[]; changed?: () => void }) {
  const { v, field, number, tick, submit, attempt, wrong, rest, busy } = useDraft(
    { name: "till", most: 4, open: false, settings: { address: "" } },
    { changed },
  );
  const keep = submit(async () => {
    sent.push({ ...v });
    const refused = refusals.shift();
    if (refused) throw refused;
  });
  return (
    <form onSubmit={keep}>
      <TextField label="Name" {...field("name")} />
      <TextField label="Most" {...number("most")} />
      <Tick label="Open" {...tick("open")} />
      <TextField
        label="Address"
        value={v.settings.address}
        set={() => {}}
        wrong={wrong("settings.address")}
      />
      <output>{busy ? "working" : "at rest"}</output>
      {rest}
      <button type="button" onClick={() => void attempt(async () => Promise.reject(problem("Not now.")))}>
        Try
      </button>
      <FormFoot close={() => {}} busy={busy} />
    </form>
  );
}

test("what is typed is sent as it stands, numbers as numbers and ticks as ticks", async () => {
  const sent: unknown[] = [];
  let changes = 0;
  shown = await show(<Form refusals={[]} sent={sent} changed={() => (changes += 1)} />);
  await shown.type("Name", "till-9");
  await shown.type("Most", "12");
  await shown.click(shown.one("input[type=checkbox]"));
  await shown.submit();
  expect(sent).toEqual([{ name: "till-9", most: 12, open: true, settings: { address: "" } }]);
  expect(changes).toBe(3);
});

test("a refusal stands at its field until that field changes, and what was typed stays", async () => {
  shown = await show(<Form refusals={[problem("There is one called till.", "name")]} sent={[]} />);
  await shown.submit();
  expect(shown.one("[role=alert]").textContent).toBe("There is one called till.");
  await shown.type("Most", "5");
  expect(shown.one("[role=alert]").textContent).toBe("There is one called till.");
  await shown.type("Name", "till-2");
  expect(shown.all("[role=alert]")).toEqual([]);
  expect((shown.one("input[type=number]") as HTMLInputElement).value).toBe("5");
});

test("a refusal of a setting stands at the setting", async () => {
  shown = await show(<Form refusals={[problem("Say an address.", "settings.address")]} sent={[]} />);
  await shown.submit();
  const at = shown.all("label").find((l) => l.textContent === "Address");
  expect(at?.parentElement?.querySelector("[role=alert]")?.textContent).toBe("Say an address.");
});

test("a refusal of a field the form does not show is said all the same", async () => {
  shown = await show(<Form refusals={[problem("The version is old.", "version")]} sent={[]} />);
  await shown.submit();
  expect(shown.one("[role=alert]").textContent).toBe("The version is old.");
});

test("what is no refusal of the server is said too, and the form is at rest again", async () => {
  shown = await show(<Form refusals={[new TypeError("no such thing")]} sent={[]} />);
  await shown.submit();
  expect(shown.one("[role=alert]").textContent).toContain("no such thing");
  expect(shown.one("output").textContent).toBe("at rest");
  await shown.click(shown.button("Try"));
  expect(shown.one("[role=alert]").textContent).toBe("Not now.");
  await shown.submit(); // and once it is taken, nothing is wrong any more
  expect(shown.all("[role=alert]")).toEqual([]);
});
