import { afterEach, beforeEach, expect, test, vi } from "vitest";
import { me, type Shown, serverOf, show } from "../../parts/testing";
import { Scanned } from "./Scanned";

const went = vi.fn();
vi.mock("@tanstack/react-router", () => ({
  useNavigate: () => went,
  useParams: () => ({ code: "K7MQ2XRTA" }),
  Link: (props: { children: unknown }) => <a href="#there">{props.children as never}</a>,
}));

let shown: Shown;
beforeEach(() => went.mockClear());
afterEach(() => shown?.end());

const label = {
  code: "K7MQ2XRTA",
  asset: 4,
  number: "A-00004",
  name: "salt-lt-04",
  printed_for: "A-00004",
  moved: false,
  printed: 1,
  printed_at: null,
  lost_at: null,
};

test("who works here is led to the device", async () => {
  serverOf({ "GET /api/me": me("viewer"), "GET /api/labels/K7MQ2XRTA": { body: label } });
  shown = await show(<Scanned />);
  expect(went).toHaveBeenCalledWith(expect.objectContaining({ params: { asset: "4" } }));
});

test("a label whose device has another number now, or that counts as lost, says so first", async () => {
  for (const [more, says] of [
    [{ moved: true, number: "A-00001" }, "This device has another number now"],
    [{ lost_at: "2026-11-30T10:00:00Z" }, "This label counts as lost"],
  ] as const) {
    serverOf({ "GET /api/me": me("viewer"), "GET /api/labels/K7MQ2XRTA": { body: { ...label, ...more } } });
    shown = await show(<Scanned />);
    expect(shown.text()).toContain(says);
    expect(went).not.toHaveBeenCalled();
    shown.end();
  }
});

test("anybody else is told whom to call, and of a code that leads nowhere why", async () => {
  const body = { company: "Skerrivane Ferries", phone: "+00 555 0134", words: "Bring it to any ferry." };
  serverOf({ "GET /api/me": { body: null }, "GET /api/found/K7MQ2XRTA": { body } });
  shown = await show(<Scanned />);
  expect(shown.text()).toContain("belongs to Skerrivane Ferries. Bring it to any ferry.");
  expect(shown.all("a").map((a) => a.getAttribute("href"))).toContain("tel:+005550134");
  shown.end();
  const detail = "“K7MQ2XRTA” is mistyped: its last character does not fit the others.";
  serverOf({
    "GET /api/me": { body: null },
    "GET /api/found/K7MQ2XRTA": { status: 404, body: { title: "Not found", status: 404, detail } },
  });
  shown = await show(<Scanned />);
  expect(shown.text()).toContain("is mistyped");
});
