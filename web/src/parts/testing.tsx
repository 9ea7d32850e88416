import { QueryClient, QueryClientProvider } from "@tanstack/react-query";
import type { ReactNode } from "react";
import { act } from "react";
import { createRoot, type Root } from "react-dom/client";
import { answerBy, underWay } from "./testing.setup";

/** A page of one part, in a document of its own, with a server that answers as told. */
export interface Shown {
  text: () => string;
  all: (selector: string) => HTMLElement[];
  one: (selector: string) => HTMLElement;
  button: (name: string) => HTMLButtonElement;
  click: (element: Element) => Promise<void>;
  type: (label: string, value: string) => Promise<void>;
  submit: () => Promise<void>;
  /** Wait until a text is shown: what is asked for only once something else was answered. */
  sees: (text: string) => Promise<void>;
  /** Open the menu of a button, as a browser does. */
  menu: (name: string) => Promise<void>;
  /** Do something to the page by hand. */
  act: (what: () => unknown) => Promise<void>;
  /** Draw another part, or the same with other things, in its place. */
  again: (part: ReactNode) => Promise<void>;
  end: () => void;
}

type Answer = { status?: number; body: unknown };

/** Answer calls by "METHOD /path"; what was called is noted, with what it asked and its body. */
export function serverOf(
  answers: Record<string, Answer | ((body: unknown, query: string) => Answer)>,
  /** What answers calls that are not named. */
  other: (call: string) => Answer | undefined = () => undefined,
) {
  const called: { call: string; body: unknown; query: string }[] = [];
  answerBy(async (input, init) => {
    const request = input instanceof Request ? input : new Request(input, init);
    const { pathname, search: query } = new URL(request.url);
    const call = `${request.method} ${pathname}`;
    const text = await request.text();
    const isJson = request.headers.get("Content-Type")?.includes("json");
    const body = isJson && text ? JSON.parse(text) : text || undefined;
    called.push({ call, body, query });
    const found = answers[call] ?? other(call);
    if (!found) return new Response(`{"detail":"nothing answers ${call}"}`, { status: 500 });
    const answer = typeof found === "function" ? found(body, query) : found;
    return new Response(answer.body === undefined ? null : JSON.stringify(answer.body), {
      status: answer.status ?? 200,
      headers: { "Content-Type": "application/json" },
    });
  });
  return called;
}

export async function show(part: ReactNode): Promise<Shown> {
  (globalThis as Record<string, unknown>).IS_REACT_ACT_ENVIRONMENT = true;
  const place = document.createElement("div");
  document.body.append(place);
  const queries = new QueryClient({ defaultOptions: { queries: { retry: false } } });
  let root: Root;
  // However slow the machine is: until everything asked for has been answered and drawn.
  const settle = async () => {
    for (let n = 0, still = 0; n < 500 && still < 2; n += 1) {
      await act(async () => void (await new Promise((r) => setTimeout(r, 10))));
      still = underWay() === 0 ? still + 1 : 0;
    }
  };
  await act(async () => {
    root = createRoot(place);
    root.render(<QueryClientProvider client={queries}>{part}</QueryClientProvider>);
  });
  await settle();
  const all = (selector: string) => [...document.querySelectorAll<HTMLElement>(selector)];
  const one = (selector: string) => {
    const found = all(selector);
    if (found.length !== 1) throw new Error(`${found.length} elements are ${selector}`);
    return found[0] as HTMLElement;
  };
  const field = (label: string) => {
    const named = all("label").find((l) => l.textContent?.trim() === label) as HTMLLabelElement | undefined;
    const unseen = all(`:is(input, select, textarea)[aria-label="${label}"]`).at(-1);
    const control = named?.control ?? document.getElementById(named?.htmlFor ?? "") ?? unseen;
    if (!control) throw new Error(`no field is labelled ${label}`);
    return control as HTMLInputElement;
  };
  const sees = async (text: string) => {
    for (let n = 0; n < 100 && !document.body.textContent?.includes(text); n += 1) await settle();
    if (!document.body.textContent?.includes(text)) throw new Error(`“${text}” is not shown`);
  };
  const button = (name: string) => {
    const found = all("button").find((b) => (b.ariaLabel ?? b.textContent)?.trim() === name);
    if (!found) throw new Error(`no button is called ${name}`);
    return found as HTMLButtonElement;
  };
  return {
    sees,
    menu: async (name) => {
      const sheet = document.getElementById(button(name).getAttribute("popovertarget") ?? "");
      const opens = Object.assign(new Event("beforetoggle"), { newState: "open", oldState: "closed" });
      await act(async () => void sheet?.dispatchEvent(opens));
      await settle();
    },
    act: async (what) => {
      await act(async () => void what());
      await settle();
    },
    again: async (other) => {
      await act(async () => root.render(<QueryClientProvider client={queries}>{other}</QueryClientProvider>));
      await settle();
    },
    text: () => document.body.textContent ?? "",
    all,
    one,
    button,
    click: async (element) => {
      // What is drawn (SVG) has no click of its own.
      await act(async () =>
        element instanceof HTMLElement
          ? element.click()
          : element.dispatchEvent(new MouseEvent("click", { bubbles: true })),
      );
      await settle();
    },
    type: async (label, value) => {
      const control = field(label);
      const kind =
        [HTMLSelectElement, HTMLTextAreaElement].find((k) => (control as Element) instanceof k) ??
        HTMLInputElement;
      const write = Object.getOwnPropertyDescriptor(kind.prototype, "value")?.set;
      await act(async () => {
        write?.call(control, value);
        control.dispatchEvent(new Event(kind === HTMLSelectElement ? "change" : "input", { bubbles: true }));
      });
    },
    submit: async () => {
      await act(async () =>
        // What a dialog asks is asked before what the page does.
        (all("dialog form:not(.modal-backdrop)").at(-1) ?? one("form:not(.modal-backdrop)")).dispatchEvent(
          new Event("submit", { bubbles: true, cancelable: true }),
        ),
      );
      await settle();
    },
    end: () => {
      act(() => root.unmount());
      place.remove();
    },
  };
}

/** Who is signed in, for parts that ask. */
export function me(role: string, limits: string[] = []) {
  const may = [
    "look",
    "keep",
    "sweep",
    "decide",
    "plan",
    "credentials",
    "tasks",
    "people",
    "scripts",
    "statements",
  ];
  const reach = { viewer: 1, operator: 4, manager: 7, administrator: 10 }[role] ?? 0;
  return {
    body: { username: "ines", full_name: "Ines Kallas", role, may: may.slice(0, reach), limits, zone: "UTC" },
  };
}
