import { afterEach, expect, test, vi } from "vitest";
import { OrganisationChoice, Whose } from "./Organisation";
import { Copied, Heads, Sheet, Withdraw } from "./Sheet";
import { me, type Shown, serverOf, show } from "./testing";

let shown: Shown;
afterEach(() => shown.end());

const TWO = [
  { id: 1, name: "Averne Harbour Trust" },
  { id: 2, name: "Skerrivane Ferries" },
];

test("a sheet is a region with its own heading", async () => {
  shown = await show(
    <Sheet id="hooks" title="Inbound hooks" hint="signed" actions={<button type="button">New</button>}>
      <table>
        <Heads names={["Name", "Port", ""]} numbers={["Port"]} />
      </table>
    </Sheet>,
  );
  const region = shown.one("section");
  expect(document.getElementById(region.getAttribute("aria-labelledby") ?? "")?.textContent).toBe(
    "Inbound hooks",
  );
  expect(shown.all("th").map((h) => [h.textContent, h.className])).toEqual([
    ["Name", ""],
    ["Port", "num"],
    ["More", ""],
  ]);
});

test("withdrawing asks first, and does nothing where the answer is no", async () => {
  const call = vi.fn(async () => undefined);
  const asked = vi.spyOn(window, "confirm").mockReturnValueOnce(false).mockReturnValueOnce(true);
  shown = await show(<Withdraw what="hooks" name="Stores" then="It is refused." call={call} />);
  await shown.click(shown.button("Withdraw"));
  expect(call).not.toHaveBeenCalled();
  expect(asked.mock.calls[0]?.[0]).toBe("Withdraw “Stores”? It is refused. This is final.");
  await shown.click(shown.button("Withdraw"));
  expect(call).toHaveBeenCalledOnce();
});

test("a secret is copied as it stands", async () => {
  const writeText = vi.fn(async () => undefined);
  Object.defineProperty(navigator, "clipboard", { value: { writeText }, configurable: true });
  shown = await show(<Copied label="its secret" text={"whsec_a b\n"} />);
  await shown.click(shown.button("Copy its secret"));
  expect(writeText).toHaveBeenCalledWith("whsec_a b\n");
  expect(shown.text()).toContain("Copied");
});

test("whom a thing is made for is asked only where there is a choice", async () => {
  const set = vi.fn();
  serverOf({ "GET /api/organisations": { body: TWO }, "GET /api/me": me("manager") });
  shown = await show(<OrganisationChoice label="Made for" value="" set={set} />);
  expect(shown.all("option").map((o) => o.textContent)).toEqual([
    "no organisation",
    "Averne Harbour Trust",
    "Skerrivane Ferries",
  ]);
  await shown.type("Made for", "2");
  expect(set).toHaveBeenCalledWith("2");
});

test.each([
  ["nobody has organisations", [], me("manager")],
  ["a person is limited to one", TWO.slice(0, 1), me("manager", ["Averne Harbour Trust"])],
])("it is not asked where %s", async (_, organisations, who) => {
  serverOf({ "GET /api/organisations": { body: organisations }, "GET /api/me": who });
  shown = await show(<OrganisationChoice label="Made for" value="" set={() => undefined} />);
  expect(shown.all("select")).toHaveLength(0);
});

test("whose a thing is stands beside it only where several are to be seen", async () => {
  serverOf({ "GET /api/organisations": { body: TWO }, "GET /api/me": me("manager") });
  shown = await show(
    <p>
      <Whose id={2} />
      <Whose id={null} />
    </p>,
  );
  expect(shown.one("p").textContent).toBe("Skerrivane Ferries");
});
