import { afterEach, expect, test, vi } from "vitest";
import { me, type Shown, serverOf, show } from "../../parts/testing";
import { EnergyForm, LedgerForm, RatesForm, SupportForm } from "./MoneyForms";

let shown: Shown;
afterEach(() => shown?.end());

const answers = {
  "GET /api/me": me("manager"),
  "GET /api/money/ledger": { body: { currency: "EUR", year_begins: 4, idle_after: 90, version: 3 } },
  "GET /api/money/rates": { body: [{ day: "2026-01-02", currency: "NOK", rate: "11.6000" }] },
  "GET /api/valuation/energy": { body: { price: 0.31, kinds: { server: [220, 24] }, version: 2 } },
  "GET /api/lifecycle/support-ends": {
    body: [
      { id: 4, name: "debian gnu/linux", release: "12", released: "2023-06-10", day: "2028-06-30" },
      { id: 5, name: "quill office", release: "", released: null, day: null },
    ],
  },
};
const body = (called: { call: string; body: unknown }[], call: string) =>
  called.find((c) => c.call === call)?.body;

test("the company's currency and year are set from the version that was read", async () => {
  const called = serverOf({ ...answers, "PUT /api/money/ledger": { body: { version: 4 } } });
  const close = vi.fn();
  shown = await show(<LedgerForm close={close} />);
  await shown.sees("Currency of the company");
  await shown.type("Its fiscal year begins in", "1");
  await shown.type("An installation is idle after days without use", "30");
  await shown.submit();
  expect(body(called, "PUT /api/money/ledger")).toEqual({
    currency: "EUR",
    year_begins: 1,
    idle_after: 30,
    version: 3,
  });
  expect(close).toHaveBeenCalled();
});

test("a currency that is none stands beside its field, and what was typed stays", async () => {
  serverOf({
    ...answers,
    "PUT /api/money/ledger": {
      status: 422,
      body: { detail: "“EURO” is no currency (ISO 4217).", field: "currency", status: 422 },
    },
  });
  const close = vi.fn();
  shown = await show(<LedgerForm close={close} />);
  await shown.type("Currency of the company", "EURO");
  await shown.submit();
  await shown.sees("“EURO” is no currency (ISO 4217).");
  expect(shown.all("input").map((i) => (i as HTMLInputElement).value)).toContain("EURO");
  expect(close).not.toHaveBeenCalled();
});

test("rates are taken from a text or a file, and a bad line is named", async () => {
  const refused = {
    status: 422,
    body: { detail: "Line 2: “NOC” is no currency.", field: "file", status: 422 },
  };
  const called = serverOf({ ...answers, "POST /api/money/rates": refused });
  shown = await show(<RatesForm close={vi.fn()} />);
  await shown.sees("NOK");
  expect(shown.text()).toContain("11.6");
  const chooser = shown.one("input[type=file]") as HTMLInputElement;
  const file = { text: async () => "date,currency,rate\n2026-01-02,NOC,11.60" } as unknown as File;
  Object.defineProperty(chooser, "files", { value: [file] });
  await shown.act(() => chooser.dispatchEvent(new Event("change", { bubbles: true })));
  await shown.submit();
  expect(body(called, "POST /api/money/rates")).toEqual({ text: "date,currency,rate\n2026-01-02,NOC,11.60" });
  await shown.sees("Line 2: “NOC” is no currency.");
});

test("what energy costs is set line by line; a line without a kind is none", async () => {
  const called = serverOf({ ...answers, "PUT /api/valuation/energy": { body: { version: 3 } } });
  shown = await show(<EnergyForm close={vi.fn()} />);
  await shown.sees("Price of a kilowatt hour");
  await shown.click(shown.button("Another kind"));
  await shown.click(shown.button("Another kind"));
  await shown.type("Kind, line 2", "till");
  await shown.type("Watts, line 2", "35");
  await shown.type("Hours a day, line 2", "12");
  await shown.submit();
  expect(body(called, "PUT /api/valuation/energy")).toEqual({
    price: "0.31",
    kinds: { server: [220, 24], till: [35, 12] },
    version: 2,
  });
});

test("a kind that is none is said below the lines", async () => {
  serverOf({
    ...answers,
    "PUT /api/valuation/energy": {
      status: 422,
      body: { detail: "“tlil” is no kind of device.", field: "kinds", status: 422 },
    },
  });
  shown = await show(<EnergyForm close={vi.fn()} />);
  await shown.sees("Price of a kilowatt hour");
  await shown.submit();
  await shown.sees("“tlil” is no kind of device.");
});

test("an end of support is dropped, one of every release says so, and more are taken in", async () => {
  const called = serverOf({
    ...answers,
    "DELETE /api/lifecycle/support-ends/4": { status: 204, body: undefined },
    "POST /api/lifecycle/support-ends": { body: { taken: 2 } },
  });
  const close = vi.fn();
  shown = await show(<SupportForm close={close} />);
  await shown.sees("Debian gnu/linux");
  expect(shown.all("tbody tr")[1]?.textContent).toContain("every");
  await shown.click(shown.one("[aria-label='Drop debian gnu/linux 12']"));
  expect(called.some((c) => c.call === "DELETE /api/lifecycle/support-ends/4")).toBe(true);
  await shown.type("More ends", "Tern Store,4,2027-01-01");
  await shown.submit();
  expect(body(called, "POST /api/lifecycle/support-ends")).toEqual({ text: "Tern Store,4,2027-01-01" });
  expect(close).toHaveBeenCalled();
});
