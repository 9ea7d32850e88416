import { afterEach, expect, test, vi } from "vitest";
import { me, type Shown, serverOf, show } from "../testing";
import { LabelDialog } from "./LabelDialog";

let shown: Shown;
afterEach(() => shown?.end());

const choices = {
  sheets: [
    { key: "a4-24", name: "A4, 3 by 8 of 70 × 36 mm", labels: 24, width: 70, height: 36 },
    { key: "strip-62", name: "Strip, 62 × 29 mm", labels: 1, width: 62, height: 29 },
  ],
  codes: ["QR", "Code 128"],
  schemes: [
    {
      id: 3,
      name: "Laptops",
      kinds: ["laptop"],
      prefix: "SF-L",
      digits: 4,
      check: "mod 11,10",
      next: 794,
      example: "SF-L07945",
      version: 1,
    },
  ],
  checks: ["none", "mod 11,10"],
  words: { company: "Skerrivane Ferries", phone: "+00 555 0134", words: "", version: 2 },
};
const label = {
  code: "K7MQ2XRTA",
  asset: 4,
  number: "A-00004",
  name: "salt-lt-04",
  printed_for: "A-00004",
  moved: false,
  printed: 2,
  printed_at: "2026-11-20T10:00:00Z",
  lost_at: null,
};

test("labels are written as they are asked for, what is wrong stands at its field, and a lost one is said", async () => {
  const close = vi.fn();
  const called = serverOf({
    "GET /api/labels/choices": { body: choices },
    "GET /api/assets/4/labels": { body: [label] },
    "POST /api/labels/print": {
      status: 422,
      body: {
        title: "Not valid",
        status: 422,
        field: "begin",
        detail: "This sheet has labels 1 to 24; 99 is none of them.",
      },
    },
    "POST /api/labels/K7MQ2XRTA/lost": { body: { ...label, lost_at: "2026-11-30T10:00:00Z" } },
    "PUT /api/labels/words": { body: { ...choices.words, version: 3 } },
    "GET /api/me": me("manager"),
  });
  shown = await show(<LabelDialog filter={null} assets={[4]} named="salt-lt-04" total={1} close={close} />);
  expect(shown.text()).toContain("Labels for salt-lt-04");
  expect(shown.text()).toContain("printed 2 times");
  await shown.type("First free label", "99");
  await shown.submit();
  const sent = called.find((c) => c.call === "POST /api/labels/print")?.body;
  expect(sent).toEqual({
    sheet: "a4-24",
    code: "QR",
    begin: 99,
    right: 0,
    down: 0,
    filter: null,
    assets: [4],
    expected: 1,
    give_numbers: true,
  });
  expect(shown.text()).toContain("99 is none of them");
  expect(close).not.toHaveBeenCalled();
  await shown.click(shown.button("It is lost"));
  expect(called.map((c) => c.call)).toContain("POST /api/labels/K7MQ2XRTA/lost");
  await shown.click(shown.button("Change what they say"));
  await shown.type("Company", "Harbour office");
  await shown.submit();
  expect(called.find((c) => c.call === "PUT /api/labels/words")?.body).toMatchObject({
    company: "Harbour office",
    version: 2,
  });
});

test("numbering schemes are told with the number they give next, and changed in place", async () => {
  const called = serverOf({
    "GET /api/labels/choices": { body: choices },
    "PUT /api/labels/schemes/3": { body: choices.schemes },
    "GET /api/me": me("manager"),
  });
  shown = await show(
    <LabelDialog filter="kind = laptop" assets={[]} named="laptops" total={9} close={vi.fn()} />,
  );
  await shown.click(shown.button("Company numbers"));
  expect(shown.text()).toContain("SF-L07945");
  await shown.click(shown.button("Change Laptops"));
  await shown.type("Next", "900");
  await shown.submit();
  const sent = called.find((c) => c.call === "PUT /api/labels/schemes/3")?.body;
  expect(sent).toMatchObject({ kinds: ["laptop"], next: 900, check: "mod 11,10", version: 1 });
});
