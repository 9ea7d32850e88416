import type { Schemas } from "../../api/client";

export type Scenario = Schemas["ScenarioOut"];

/** What a plan is made by, as it is typed: amounts as text, nothing where nothing is said. */
export interface Draft {
  life: Record<string, string>;
  price: Record<string, string>;
  memory: Record<string, string>;
  earlier: Record<string, string>;
  budget: string;
  quarters: string;
}

/** What a plan begins with. */
export const BEGUN: Draft = {
  life: { laptop: "48", workstation: "60", server: "72" },
  price: {},
  memory: {},
  earlier: { warranty: "6", faults: "3", memory: "6", exposed: "0", important: "0" },
  budget: "",
  quarters: "8",
};

const text = (of: Record<string, unknown> = {}): Record<string, string> =>
  Object.fromEntries(Object.entries(of).map(([k, v]) => [k, String(v ?? "")]));

/** A scenario as it is kept, as it is typed. */
export function draftOf({ settings: s }: Scenario): Draft {
  return {
    life: text(s.life),
    price: text(s.price),
    memory: text(s.memory),
    earlier: text(s.earlier),
    budget: s.budgets?.[0] ?? "",
    quarters: String(s.quarters ?? 8),
  };
}

/** What was typed as the server reads it. */
export function settingsOf(d: Draft) {
  const numbers = (of: Record<string, string>) =>
    Object.fromEntries(Object.entries(of).map(([k, v]) => [k, v === "" ? null : Number(v)]));
  return {
    life: numbers(d.life),
    price: d.price,
    memory: numbers(d.memory),
    earlier: numbers(d.earlier),
    budgets: [d.budget || null],
    quarters: Number(d.quarters) || 8,
  };
}
