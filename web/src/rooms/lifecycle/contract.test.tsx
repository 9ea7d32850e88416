import { afterEach, beforeEach, expect, test, vi } from "vitest";
import type { Schemas } from "../../api/client";
import { me, type Shown, serverOf, show } from "../../parts/testing";
import { ContractPage } from "./ContractPage";

const went: unknown[] = [];
vi.mock("@tanstack/react-router", () => ({
  useParams: () => ({ contract: "7" }),
  useSearch: () => ({}),
  useNavigate: () => (to: unknown) => void went.push(to),
  Link: (props: { children: unknown; search?: { q?: string } }) => (
    <a href={`#${props.search?.q ?? ""}`}>{props.children as never}</a>
  ),
}));

let shown: Shown;
beforeEach(() => {
  went.length = 0;
});
afterEach(() => {
  shown?.end();
  vi.unstubAllGlobals();
});

const device = (id: number, name: string | null) => ({
  id,
  number: `A-${id}`,
  name,
  kind: "printer",
  place: "Saltholm",
  department: null,
});
const lease: Schemas["ContractOut"] = {
  id: 7,
  name: "Printer lease",
  provider: "Quarto Leasing",
  kind: "lease",
  number: "QL-7",
  state: "runs",
  starts: "2024-01-01",
  ends: "2026-12-31",
  notice_by: "2026-10-01",
  days_left: 31,
  notice_days: -60,
  renews: 12,
  times: 1,
  cost: "1250.50",
  currency: "EUR",
  every: "quarter",
  covers: "kind = printer",
  devices: 2,
  decided: "",
  agreed_until: "2026-12-31",
  notice: 90,
  notices: [90, 30],
  first_payment: null,
  note: "with toner",
  former: [
    { until: "2025-01-01", provider: "Quarto", cost: null, currency: "EUR", every: "once" },
    { until: "2026-01-01", provider: "Quarto", cost: "900.00", currency: "EUR", every: "once" },
  ],
  version: 3,
  assets: [device(1, "salt-prn-01"), device(2, "salt-prn-02")],
  gone: [device(3, null)],
  licences: [{ name: "Quill Print", there: false }],
  people: [
    { name: "Una Skerry", there: true },
    { name: "Ode Marsh", there: false },
  ],
  history: [{ at: 1_790_000_000, who: "ines", verb: "decided", why: "cheaper" }],
};
const watch = { name: "What ends", report: "notices", to: ["a@quay.example", "b@quay.example"] };
const answers = (contract: object = lease) => ({
  "GET /api/me": me("manager"),
  "GET /api/lifecycle/contracts/7": { body: contract },
  "GET /api/papers-of/contract/7": { body: [] },
  "GET /api/watches": { body: [watch, { ...watch, name: "Other", report: "spares" }] },
});

test("what is agreed, what it covered before and who is told is said in words", async () => {
  serverOf(answers());
  shown = await show(<ContractPage />);
  await shown.sees("written to 2 receivers by “What ends”");
  for (const said of [
    "goes on for 12 months, unless notice is given 90 days before",
    "went on 1 time",
    "90, 30 days before",
    "EUR, each quarter",
    "with toner",
    "1 device when it began, and not now",
    "asset 3",
    "ines decided: cheaper",
  ])
    expect(shown.text()).toContain(said);
  const tags = shown.all(".tag.warn").map((t) => t.textContent);
  expect(tags).toEqual(expect.arrayContaining(["dropped", "no longer here"]));
  expect(shown.one("a[href='#kind = printer']").textContent).toBe("See them in the estate");
  expect(shown.all("tbody tr").map((r) => r.textContent)).toEqual(
    expect.arrayContaining(["salt-prn-01printerSaltholm"]),
  );
});

test("a contract without an end, a cost or devices says so and offers no decision", async () => {
  serverOf({
    ...answers({ ...lease, ends: null, renews: 0, times: 0, cost: null, covers: "", devices: 0, notices: [],
      assets: [], gone: [], licences: [], people: [], history: [], former: [], note: "" }),
    "GET /api/watches": { body: [] },
  }); // biome-ignore format: one contract
  shown = await show(<ContractPage />);
  await shown.sees("no end is agreed");
  expect(shown.text()).toContain("it says nothing of devices");
  expect(shown.text()).toContain("by nobody");
  expect(shown.all("button").map((b) => b.textContent)).not.toContain("Decide");
});

test("devices a contract was made for and that are gone are missed by its question", async () => {
  serverOf({ ...answers({ ...lease, assets: [], devices: 0 }), "GET /api/watches": { body: [] } });
  shown = await show(<ContractPage />);
  await shown.sees("what it was made for is no longer there");
  expect(shown.text()).toContain("no letters: nobody watches");
});

test("what becomes of it is decided with a reason, and a refusal keeps what was typed", async () => {
  const taken: object[] = [];
  serverOf({
    ...answers(),
    "POST /api/lifecycle/contracts/7/decision": (body) => {
      taken.push(body as object);
      return taken.length === 1
        ? { status: 409, body: { detail: "Its term has changed meanwhile.", status: 409 } }
        : { body: { id: 7, name: lease.name } };
    },
  });
  shown = await show(<ContractPage />);
  await shown.click(shown.button("Decide"));
  await shown.type("It is", "let go");
  await shown.type("Why", "too dear");
  await shown.submit();
  expect(shown.all("dialog").length).toBe(1);
  await shown.submit();
  expect(taken).toEqual([
    { decision: "let go", why: "too dear" },
    { decision: "let go", why: "too dear" },
  ]);
  expect(shown.all("dialog").length).toBe(0);
});

test("it is dropped only once that was meant, and one is then among the contracts", async () => {
  const called = serverOf({
    ...answers(),
    "DELETE /api/lifecycle/contracts/7": { status: 204, body: undefined },
  });
  vi.stubGlobal("confirm", vi.fn().mockReturnValueOnce(false).mockReturnValue(true));
  shown = await show(<ContractPage />);
  await shown.click(shown.button("Drop"));
  expect(called.some((c) => c.call.startsWith("DELETE"))).toBe(false);
  await shown.click(shown.button("Drop"));
  expect(went).toEqual([{ to: "/lifecycle", search: { tab: "contracts" } }]);
});

test("whoever only looks changes nothing", async () => {
  serverOf({ ...answers(), "GET /api/me": me("viewer") });
  shown = await show(<ContractPage />);
  await shown.sees("Printer lease");
  for (const act of ["Decide", "Change", "Drop"])
    expect(shown.all("button").map((b) => b.textContent)).not.toContain(act);
});
