import { act } from "react";
import { afterEach, beforeEach, expect, test, vi } from "vitest";
import type { Claims } from "../api/types";
import { Dial } from "./Dial";
import { companyDay, daysFrom } from "./days";
import { Ribbon } from "./Ribbon";
import { Shortcuts } from "./Shortcuts";
import { Standing } from "./Standing";
import { me, type Shown, serverOf, show } from "./testing";
import { undoToast } from "./undo";
import { Fact } from "./Why";

let search: Record<string, string> = {};
const went: { search: (before: object) => object }[] = [];
vi.mock("@tanstack/react-router", () => ({
  useSearch: () => search,
  useNavigate: () => (to: never) => void went.push(to),
  Link: (props: { children: unknown }) => <a href="#x">{props.children as never}</a>,
}));

let shown: Shown;
beforeEach(() => {
  search = {};
  went.length = 0;
});
afterEach(() => shown?.end());
/** What the address bar says after the last step. */
const now = () => went.at(-1)?.search({ q: "kind = server" });

test("the dial turns the whole application to a day and back to now", async () => {
  serverOf({});
  shown = await show(<Dial />);
  expect(shown.text()).toContain("Now");
  expect(shown.button("Back to now").disabled).toBe(true);
  await shown.click(shown.all(".btn").find((b) => b.textContent?.startsWith("A week ago")) as HTMLElement);
  expect(now()).toEqual({ q: "kind = server", at: daysFrom(companyDay(), -7) });
  await shown.type("Any day", "2026-03-01");
  expect(now()).toEqual({ q: "kind = server", at: "2026-03-01" });
  shown.end();
  search = { at: "2026-03-01" };
  shown = await show(<Dial />);
  expect(shown.text()).toContain("as of 1 March 2026");
  await shown.click(shown.button("Back to now"));
  expect(now()).toEqual({ q: "kind = server", at: undefined });
});

const branch = (field: string, name: string, depth = 0) => ({
  field,
  name,
  depth,
  within: 12,
  own: 12,
  parent: "",
});
const branches = {
  "GET /api/branches": {
    body: [branch("place", "Mainland"), branch("place", "Saltholm", 1), branch("department", "Ticketing"), branch("person", "Una Skerry")],
  },
}; // biome-ignore format: four branches
const opened = async () => {
  await act(async () => {
    shown.one("#standing").dispatchEvent(Object.assign(new Event("toggle"), { newState: "open" }));
  });
  await shown.sees("Mainland");
};

test("one stands in a branch; the branches are asked for only once somebody looks, people only once sought", async () => {
  const called = serverOf(branches);
  shown = await show(<Standing />);
  expect(called).toEqual([]);
  await opened();
  expect(shown.text()).not.toContain("Una Skerry");
  await shown.type("Find a place, department or person", "una");
  await shown.act(() => undefined);
  await shown.click(shown.all("section[aria-label=People] button")[0] as HTMLElement);
  expect(now()).toEqual({ q: "kind = server", in: "person:Una Skerry" });
});

test("where one stands is marked, and left again", async () => {
  search = { in: "place:Saltholm" };
  serverOf(branches);
  shown = await show(<Standing />);
  expect(shown.one("[aria-label='Standing in Saltholm']").textContent).toBe("Saltholm");
  await opened();
  const marked = shown.all("#standing [aria-pressed=true]").map((b) => b.textContent);
  expect(marked).toEqual(["Saltholm12"]);
  await shown.type("Find a place, department or person", "atlantis");
  await shown.sees("Nothing is called that.");
  await shown.click(shown.button("Everywhere"));
  expect(now()).toEqual({ q: "kind = server", in: "" });
});

async function key(name: string, on: EventTarget = document.body, more: KeyboardEventInit = {}) {
  await act(async () => {
    on.dispatchEvent(new KeyboardEvent("keydown", { key: name, bubbles: true, cancelable: true, ...more }));
  });
}

test("keys work everywhere but where one types", async () => {
  serverOf({ "POST /api/audit/9/undo": { body: {} } });
  shown = await show(
    <>
      <div data-ask-line>
        <input aria-label="Ask" />
      </div>
      <Shortcuts />
    </>,
  );
  const line = shown.one("[aria-label=Ask]");
  await key("?", line);
  expect(shown.all("dialog").length).toBe(0);
  await key("a");
  expect(document.activeElement).toBe(line);
  await key("?");
  expect(shown.text()).toContain("undo what was done last");
});

test("the last thing done is undone by a key, once", async () => {
  const called = serverOf({ "POST /api/audit/9/undo": { body: {} } });
  const after = vi.fn();
  shown = await show(<Shortcuts />);
  undoToast("Changed.", 9, after);
  await key("z", document.body, { ctrlKey: true });
  await vi.waitFor(() => expect(after).toHaveBeenCalledOnce());
  await key("z", document.body, { ctrlKey: true });
  expect(called.map((c) => c.call)).toEqual(["POST /api/audit/9/undo"]);
});

test("the ribbon is walked by days and by months, and its end is now", async () => {
  const pick = vi.fn();
  const [from, to] = [new Date("2026-01-01T12:00:00Z"), new Date("2026-11-30T12:00:00Z")];
  const days = [{ day: "2026-05-01", software: 3, hardware: 1, facts: 0 }];
  const drawn = (at: Date) => <Ribbon days={days} from={from} to={to} at={at} onPick={pick} />;
  shown = await show(drawn(new Date("2026-06-15T12:00:00Z")));
  const slider = shown.one("[role=slider]");
  expect(slider.getAttribute("aria-valuetext")).toBe("2026-06-15");
  await key("ArrowLeft", slider);
  expect(pick).toHaveBeenLastCalledWith("2026-06-14");
  await key("PageDown", slider);
  expect(pick).toHaveBeenLastCalledWith("2026-05-16");
  await shown.again(drawn(to));
  await key("ArrowRight", shown.one("[role=slider]"));
  expect(pick).toHaveBeenLastCalledWith(null);
  await shown.again(drawn(new Date("2026-01-03T12:00:00Z")));
  await key("PageDown", shown.one("[role=slider]"));
  expect(pick).toHaveBeenLastCalledWith("2026-01-02"); // no further than it reaches
  await shown.again(<Ribbon days={days} from={from} to={to} at={to} />);
  expect(shown.one("[role=img]").getAttribute("aria-label")).toBe(
    "4 changes between 2026-01-01 and 2026-11-30",
  );
});

const claim = (source: string, source_kind: string, value: number, more: object = {}) => ({
  source,
  source_kind,
  value,
  since: "2026-03-01T10:00:00Z",
  confirmed: "2026-03-01T10:00:00Z",
  believed: false,
  agrees: true,
  ...more,
});

test("a fact says who vouches for it, who disagrees, and why the winner is believed", async () => {
  const claims = {
    memory: {
      why: "What is read from the machine outranks records and files about it.",
      said: [
        claim("night", "sweep", 17179869184, { believed: true }),
        claim("stores.csv", "file", 8589934592, { agrees: false }),
      ],
    },
  } as Claims;
  serverOf({ "GET /api/me": me("viewer") });
  shown = await show(
    <dl>
      <Fact label="Memory" field="memory" type="memory" value="16 GB" claims={claims} />
      <Fact label="Note" field="note" value={null} claims={claims} />
    </dl>,
  );
  expect(shown.text()).toContain("a file says 8 GB");
  expect(shown.text()).toContain("not known");
  expect(shown.text()).not.toContain("outranks");
  const marks = shown.one("[aria-expanded]");
  expect(marks.getAttribute("aria-label")).toMatch(/^Why memory: /);
  await shown.click(marks);
  expect(shown.text()).toContain("What is read from the machine outranks records and files about it.");
  expect(shown.all("li").map((l) => l.querySelector(".mono")?.textContent)).toEqual(["16 GB", "8 GB"]);
});
