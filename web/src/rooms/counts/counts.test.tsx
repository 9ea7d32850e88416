import { afterEach, expect, test, vi } from "vitest";
import type { Schemas } from "../../api/client";
import { me, type Shown, serverOf, show } from "../../parts/testing";
import { CountPage } from "./CountPage";

vi.mock("@tanstack/react-router", async (whole) => ({
  ...(await whole<object>()),
  useParams: () => ({ count: "3" }),
  useSearch: () => ({}),
  useNavigate: () => vi.fn(),
  Link: (props: { children: unknown }) => <a href="#there">{props.children as never}</a>,
}));

let shown: Shown;
afterEach(() => shown?.end());

const whole: Schemas["TakingWhole"] = {
  id: 3,
  number: "C-0003",
  name: "Autumn",
  filter: "",
  state: "open",
  made_by: "wren",
  made_at: "2026-11-30T10:00:00Z",
  ended_by: "",
  ended_at: null,
  organisation: null,
  expected: 3,
  figures: { found: 1, elsewhere: 0, missing: 2, "not expected": 0, unknown: 1 },
  sample: null,
  version: 1,
  places: [{ place: "Saltholm", counter: "wren", expected: 3, found: 1, elsewhere: 0, missing: 2 }],
  counters: ["wren"],
  unsettled: 3,
};
const line = (more: Partial<Schemas["TakingLine"]>): Schemas["TakingLine"] => ({
  state: "missing",
  expected: 11,
  met: null,
  asset: 5,
  number: "A-00005",
  name: "salt-sw-01",
  kind: "switch",
  model: "SX24",
  serial: "",
  person: "",
  place: "Saltholm",
  met_at: null,
  met_place: "",
  met_by: "",
  code: "",
  note: "",
  times: 0,
  papers: 0,
  heard: "2026-11-30T10:00:00Z",
  port: "salt-gw-01, port2",
  standing: "register",
  settled: "",
  beside: [],
  ...more,
});

function answers(state: string) {
  return {
    "GET /api/me": me("operator"),
    "GET /api/counts/3": { body: { ...whole, state } },
    "GET /api/counts/3/lines": (_: unknown, query: string) => ({
      body: query.includes("unknown")
        ? {
            total: 1,
            lines: [
              line({
                state: "unknown",
                expected: null,
                met: 9,
                asset: null,
                number: "",
                name: "",
                code: "HB-77",
              }),
            ],
          }
        : { total: 2, lines: [line({}), line({ expected: 12, asset: 6, name: "salt-sw-02" })] },
    }),
    "GET /api/papers-of/count/3": { body: [] },
  };
}

test("what is still to find is ticked, and settled several at once", async () => {
  const called = serverOf({
    ...answers("open"),
    "POST /api/counts/3/met": { body: [] },
    "POST /api/counts/3/settle": { body: whole },
  });
  shown = await show(<CountPage />);
  await shown.sees("salt-sw-02");
  expect(shown.text()).toContain("1 of 3 met, counted by wren");
  expect(shown.text()).toContain("on salt-gw-01, port2");
  await shown.click(shown.button("It is here: salt-sw-01"));
  const met = called.find((c) => c.call === "POST /api/counts/3/met")?.body as {
    met: { code: string; how: string }[];
  };
  expect(met.met[0]).toMatchObject({ code: "A-00005", how: "tick", place: "Saltholm" });
  for (const box of shown.all("tbody input[type=checkbox]")) await shown.click(box);
  await shown.click(shown.button("Settle 2 lines"));
  await shown.submit();
  const settled = called.find((c) => c.call === "POST /api/counts/3/settle")?.body;
  expect(settled).toEqual({ act: "missing", words: "", expected: [11, 12], met: [] });
});

test("what is unknown is entered by its kind, and a refusal stands in the form", async () => {
  const detail = "“ferry” is no kind.";
  serverOf({
    ...answers("open"),
    "POST /api/counts/3/settle": { status: 422, body: { title: "No", status: 422, field: "kind", detail } },
  });
  shown = await show(<CountPage />);
  await shown.click(shown.button("Unknown1"));
  await shown.sees("HB-77");
  for (const box of shown.all("tbody input[type=checkbox]")) await shown.click(box);
  await shown.click(shown.button("Settle 1 line"));
  await shown.type("Kind", "ferry");
  await shown.submit();
  expect(shown.text()).toContain(detail);
});

test("a closed count tells its protocol and what nobody settled, and nothing is ticked any more", async () => {
  serverOf(answers("closed"));
  shown = await show(<CountPage />);
  await shown.sees("salt-sw-01");
  expect(shown.text()).toContain("3 lines nobody has settled");
  expect(shown.all("a").map((a) => a.getAttribute("href"))).toContain("/api/counts/3/protocol");
  expect(shown.text()).not.toContain("It is here");
  expect(shown.text()).toContain("Missing");
});
