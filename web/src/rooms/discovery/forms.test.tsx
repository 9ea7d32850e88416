import { afterEach, expect, test, vi } from "vitest";
import { me, type Shown, serverOf, show } from "../../parts/testing";
import { CredentialForm } from "./CredentialForm";
import { Hooks } from "./Hooks";
import { NetworkForm } from "./NetworkForm";
import { Outposts } from "./Outposts";
import { TrialForm } from "./TrialForm";

vi.mock("@tanstack/react-router", () => ({ useNavigate: () => vi.fn(), Link: () => null }));

let shown: Shown;
afterEach(() => shown.end());

const NETWORK = {
  id: 4,
  range: "10.60.20.0/24",
  name: "MV Tansy",
  place: "MV Tansy",
  never_probe: false,
  outside: false,
  at_once: 64,
  pause_ms: 0,
  outposts: ["MV Tansy outpost"],
  organisation: null,
  quiet: "",
  quiet_words: "",
  quiet_minutes: 0,
};
const OUTPOST = {
  id: 7,
  name: "MV Tansy outpost",
  networks: [4],
  ranges: ["10.60.20.0/24"],
  state: "at its post",
  says: "",
  made_at: 1,
  last_seen: Math.floor(Date.now() / 1000),
  release: "0.1.0",
  skew: 0.2,
  kept: 0,
  at_work: 0,
  handed: 254,
};
const plain = { "GET /api/organisations": { body: [] }, "GET /api/me": me("manager") };

test("an outpost's state, its clock and what it keeps are said", async () => {
  const away = {
    ...OUTPOST,
    id: 8,
    name: "Slipway",
    state: "away",
    says: "Not heard from.",
    skew: -95,
    kept: 3,
  };
  serverOf({ ...plain, "GET /api/outposts": { body: [OUTPOST, away] } });
  shown = await show(<Outposts networks={[NETWORK]} mayPlan mayKeys />);
  const [first, second] = shown.all("tbody tr");
  expect(first?.textContent).toContain("right");
  expect(second?.textContent).toContain("−95 s");
  expect(second?.textContent).toContain("3 hand-ins");
  expect(second?.textContent).toContain("Not heard from.");
});

test("who may not change outposts is offered nothing", async () => {
  serverOf({ ...plain, "GET /api/outposts": { body: [OUTPOST] } });
  shown = await show(<Outposts networks={[NETWORK]} mayPlan={false} mayKeys={false} />);
  const offered = shown.all("tbody button, header button, section > div button").map((b) => b.textContent);
  expect(offered.filter((b) => b === "Networks" || b === "Withdraw" || b === "New outpost")).toEqual([]);
});

test("a new outpost's command is shown once it is made", async () => {
  const command = "tarn outpost --join https://tarn.example --token out_x";
  const called = serverOf({
    ...plain,
    "GET /api/outposts": { body: [] },
    "POST /api/outposts": { body: { id: 9, name: "Slipway", command } },
  });
  shown = await show(<Outposts networks={[NETWORK]} mayPlan mayKeys />);
  await shown.click(shown.button("New outpost"));
  await shown.type("Name", "Slipway");
  await shown.click(shown.one("input[type=checkbox]"));
  await shown.submit();
  expect(called.find((c) => c.call === "POST /api/outposts")?.body).toEqual({
    name: "Slipway",
    networks: [4],
    organisation: null,
  });
  expect(shown.text()).toContain(command);
});

test("a network's maintenance is sent with it, and a fault stands at its field", async () => {
  const called = serverOf({
    ...plain,
    "PUT /api/networks/4": {
      status: 422,
      body: { detail: "5 to 10,080.", field: "quiet_minutes", status: 422 },
    },
  });
  const close = vi.fn();
  shown = await show(<NetworkForm network={NETWORK} close={close} />);
  await shown.type("Maintenance begins", "day");
  await shown.type("At", "02:00");
  await shown.type("and lasts, minutes", "2");
  await shown.submit();
  const sent = called.find((c) => c.call === "PUT /api/networks/4")?.body as Record<string, unknown>;
  expect([sent.quiet, sent.quiet_minutes, sent.at_once]).toEqual(["FREQ=DAILY;BYHOUR=2;BYMINUTE=0", 2, 64]);
  expect(shown.text()).toContain("5 to 10,080.");
  expect(close).not.toHaveBeenCalled();
});

test("secrets left empty are not sent, and those given are", async () => {
  const called = serverOf({ ...plain, "POST /api/credentials": { body: {} } });
  shown = await show(<CredentialForm credential={null} close={() => undefined} />);
  await shown.type("Name", "night");
  await shown.type("Protocol", "snmp-v3");
  await shown.type("User", "harbour");
  await shown.type("Authentication secret", "auth-pass");
  await shown.submit();
  const sent = called.find((c) => c.call === "POST /api/credentials")?.body as Record<string, unknown>;
  expect(sent.secrets).toEqual({ auth: "auth-pass" });
  expect([sent.protocol, sent.auth, sent.privacy, sent.port]).toEqual(["snmp-v3", "sha256", "aes128", 161]);
});

test("a credential without TLS takes the plain port, and goes back with it", async () => {
  const called = serverOf({ ...plain, "POST /api/credentials": { body: {} } });
  shown = await show(<CredentialForm credential={null} close={() => undefined} />);
  await shown.type("Protocol", "winrm");
  await shown.type("Name", "w");
  const [plainBox] = shown.all("input[type=checkbox]");
  await shown.click(plainBox as HTMLElement);
  await shown.submit();
  const sent = called.find((c) => c.call === "POST /api/credentials")?.body as Record<string, unknown>;
  expect([sent.port, sent.plain]).toEqual([5985, true]);
});

test("a trial may be sent from an outpost", async () => {
  const called = serverOf({
    ...plain,
    "GET /api/outposts": { body: [OUTPOST] },
    "POST /api/trials": { body: { id: 3 } },
  });
  const credential = { id: 5, name: "harbour-linux" } as never;
  shown = await show(
    <TrialForm credential={credential} route="lab" address="10.60.20.31" close={() => undefined} />,
  );
  await shown.type("Tried from", "7");
  await shown.submit();
  expect(called.find((c) => c.call === "POST /api/trials")?.body).toEqual({
    credential: 5,
    address: "10.60.20.31",
    route: "lab",
    outpost: 7,
  });
});

test("a hook's secret is shown when it is made, and never in the list", async () => {
  serverOf({
    ...plain,
    "GET /api/hooks": { body: [{ id: 1, name: "Stores", made_at: 1, used_at: null }] },
    "POST /api/hooks": { body: { id: 2, name: "Roster", url: "https://t/api/inbound/k", secret: "whsec_s" } },
  });
  shown = await show(<Hooks />);
  expect(shown.text()).toContain("none yet");
  await shown.click(shown.button("New hook"));
  await shown.type("Which system", "Roster");
  await shown.submit();
  expect(shown.text()).toContain("whsec_s");
  await shown.click(shown.button("Done"));
  expect(shown.text()).not.toContain("whsec_s");
});
