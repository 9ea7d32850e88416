import { afterEach, expect, test, vi } from "vitest";
import { me, type Shown, serverOf, show } from "../parts/testing";
import { CredentialForm } from "./discovery/CredentialForm";
import { AccountDialog } from "./settings/AccountDialog";
import { Own } from "./settings/Own";
import { SignIn } from "./signin/SignIn";

const went = vi.fn();
let search: Record<string, string> = {};
vi.mock("@tanstack/react-router", () => ({
  useNavigate: () => went,
  useSearch: () => search,
  Link: (props: { children: unknown }) => <a href="#x">{props.children as never}</a>,
}));

let shown: Shown;
afterEach(() => {
  shown?.end();
  went.mockReset();
  search = {};
});

const AUTH = "/api/account/browser/v1";
const first = { body: { needed: false, provider: "", directory: false } };
const none = { body: {} };
const pending = {
  data: { flows: [{ id: "mfa_authenticate", is_pending: true, types: ["totp", "recovery_codes"] }] },
};

test("a name and password that do not fit are said; a second factor is asked for, and then one is in", async () => {
  let tries = 0;
  const called = serverOf({
    "GET /api/first": first,
    "GET /api/csrf": none,
    "GET /api/me": me("viewer"),
    [`POST ${AUTH}/auth/login`]: () =>
      tries++ === 0
        ? { status: 400, body: { errors: [{ message: "The name or the password is not right." }] } }
        : { status: 401, body: pending },
    [`POST ${AUTH}/auth/2fa/authenticate`]: { body: { data: {} } },
  });
  search = { to: "//evil.example/x" };
  shown = await show(<SignIn />);
  await shown.type("Name", "oona");
  await shown.type("Password", "x");
  await shown.submit();
  expect(shown.text()).toContain("The name or the password is not right.");
  await shown.submit();
  expect(shown.text()).toContain("Now the second factor");
  await shown.type("Code", "123 456");
  await shown.submit();
  const sent = called.find((c) => c.call === `POST ${AUTH}/auth/2fa/authenticate`)?.body;
  expect(sent).toEqual({ code: "123456" });
  expect(went).toHaveBeenCalledWith({ href: "/today" });
});

test("the company's own sign-in is offered where there is one, and who has no account is told", async () => {
  serverOf({ "GET /api/first": { body: { ...first.body, provider: "Harbour sign-in" } } });
  search = { error: "no_account" };
  shown = await show(<SignIn />);
  expect(shown.button("Sign in by Harbour sign-in").type).toBe("submit");
  expect(shown.one("[role=alert]").textContent).toContain("no account here for you");
});

test("the first account is made with the code, its fault at its own place", async () => {
  const called = serverOf({
    "GET /api/first": { body: { ...first.body, needed: true } },
    "GET /api/csrf": none,
    "POST /api/first": { status: 422, body: { detail: "That is not the code.", field: "code" } },
  });
  shown = await show(<SignIn />);
  await shown.type("Code", "guess");
  await shown.type("Signs in as", "ann");
  await shown.type("Password", "slack-tide-5678");
  await shown.submit();
  expect(shown.one("[role=alert]").textContent).toBe("That is not the code.");
  expect(called.at(-1)?.body).toMatchObject({ code: "guess", username: "ann" });
});

test("a forgotten password is asked for by letter, alike for every address", async () => {
  serverOf({ "GET /api/first": first, "GET /api/csrf": none, [`POST ${AUTH}/auth/password/request`]: none });
  shown = await show(<SignIn />);
  await shown.click(shown.button("Forgotten the password?"));
  await shown.type("Your mail address", "nobody@skerrivane.example");
  await shown.submit();
  expect(shown.text()).toContain("If an account has this address");
});

const session = {
  id: 1,
  ip: "10.60.5.20",
  user_agent: "A browser",
  created_at: 1_790_000_000,
  is_current: true,
};
const own = {
  "GET /api/csrf": none,
  [`GET ${AUTH}/account/authenticators`]: {
    body: {
      data: [{ type: "webauthn", id: 4, name: "notebook", created_at: 1_790_000_000, last_used_at: null }],
    },
  },
  [`GET ${AUTH}/auth/sessions`]: {
    body: { data: [session, { ...session, id: 2, ip: "10.60.5.21", is_current: false }] },
  },
};

test("a factor is removed only after the password was typed again, and then it is", async () => {
  let proved = false;
  const called = serverOf({
    ...own,
    [`DELETE ${AUTH}/account/authenticators/webauthn`]: () =>
      proved ? none : { status: 401, body: { data: { flows: [{ id: "reauthenticate" }] } } },
    [`POST ${AUTH}/auth/reauthenticate`]: () => {
      proved = true;
      return none;
    },
  });
  shown = await show(<Own />);
  await shown.sees("notebook");
  await shown.click(shown.button("Remove"));
  await shown.type("Password", "low-water-oona");
  await shown.submit();
  const removed = called.filter((c) => c.call === `DELETE ${AUTH}/account/authenticators/webauthn`);
  expect(removed.map((c) => c.body)).toEqual([{ authenticators: [4] }, { authenticators: [4] }]);
});

test("other sessions are ended at once, and this one is marked", async () => {
  const called = serverOf({ ...own, [`DELETE ${AUTH}/auth/sessions`]: none });
  shown = await show(<Own />);
  await shown.sees("this one");
  await shown.click(shown.button("Sign out everywhere else"));
  expect(called.find((c) => c.call === `DELETE ${AUTH}/auth/sessions`)?.body).toEqual({ sessions: [2] });
});

const person = {
  id: 5, username: "wren", full_name: "Wren Tasker", email: "", role: "operator" as const, limits: [], active: true,
  elsewhere: false, factors: ["totp"], sessions: 1, tokens: 1, last_sign_in: 1_790_000_000,
}; // biome-ignore format: one account

test("an administrator sees an account's sessions, tokens and failures, and may not be the last to go", async () => {
  const called = serverOf({
    "GET /api/me": me("administrator"),
    "GET /api/people/5": {
      body: {
        ...person,
        held_sessions: [{ id: 9, address: "10.60.5.20", agent: "A browser", began_at: 1, seen_at: 2 }],
        held_tokens: [
          { id: 3, name: "night job", scope: "read", made_at: 1, expires_at: null, used_at: null },
        ],
        failures: [{ at: 1_790_000_000, name: "wren", address: "203.0.113.9" }],
      },
    },
    "DELETE /api/people/5/sessions/9": { status: 200, body: {} },
    "POST /api/people/5/switch": {
      status: 422,
      body: { detail: "This is the last administrator.", field: "person" },
    },
  });
  shown = await show(<AccountDialog person={person} close={vi.fn()} />);
  await shown.sees("203.0.113.9");
  expect(shown.text()).toContain("night job: read, without an end");
  await shown.click(shown.button("End"));
  expect(called.some((c) => c.call === "DELETE /api/people/5/sessions/9")).toBe(true);
  await shown.click(shown.button("Switch off"));
  await shown.sees("This is the last administrator.");
});

test("a new credential of devices is offered the company's networks, one of a directory is not", async () => {
  const network = { id: 1, range: "10.60.4.0/24", name: "", place: "", never_probe: false };
  const called = serverOf({
    "GET /api/me": me("manager"),
    "GET /api/organisations": { body: [] },
    "GET /api/outposts": { body: [] },
    "GET /api/networks": {
      body: [network, { ...network, id: 2, range: "10.60.21.0/24", never_probe: true }],
    },
    "POST /api/credentials": {
      status: 422,
      body: { detail: "It may now be used at more places.", field: "reach" },
    },
  });
  shown = await show(<CredentialForm credential={null} close={() => undefined} />);
  await shown.sees("Where it may be used");
  await shown.type("Name", "night");
  await shown.submit();
  expect(called.at(-1)?.body).toMatchObject({ reach: ["10.60.4.0/24"], outposts: [] });
  expect(shown.one("[role=alert]").textContent).toBe("It may now be used at more places.");
  await shown.type("Protocol", "ldap");
  await shown.submit();
  expect(called.at(-1)?.body).toMatchObject({ reach: [] });
});
