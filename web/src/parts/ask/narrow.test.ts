import { describe, expect, it } from "vitest";
import { conjuncts, exclude, holds, narrow, quoted, widen } from "./narrow";

describe("narrowing a filter", () => {
  it("parts a filter at its own “and”, not at those within", () => {
    expect(conjuncts('kind = server and software[name ~ a and version < 2] and name = "x and y"')).toEqual([
      "kind = server",
      "software[name ~ a and version < 2]",
      'name = "x and y"',
    ]);
    expect(conjuncts("")).toEqual([]);
  });

  it("keeps an “or” together in parentheses", () => {
    expect(narrow("kind = server or kind = router", "place = Saltholm")).toBe(
      "(kind = server or kind = router) and place = Saltholm",
    );
  });

  it("narrows once and widens back to where it was", () => {
    const narrowed = narrow("name ~ tix", 'place = "Port Averne"');
    expect(narrowed).toBe('name ~ tix and place = "Port Averne"');
    expect(narrow(narrowed, 'place = "Port Averne"')).toBe(narrowed);
    expect(holds(narrowed, 'place = "Port Averne"')).toBe(true);
    expect(widen(narrowed, 'place = "Port Averne"')).toBe("name ~ tix");
  });

  it("knows a condition by what it says, not how it is written", () => {
    expect(holds('Kind = "server"', "kind = server")).toBe(true);
    expect(widen('kind  =  "Server" and name ~ a', "kind = server")).toBe("name ~ a");
  });

  it("takes a condition of several parts as several", () => {
    const week = "last_seen < now - 1d and last_seen >= now - 7d";
    const both = narrow("kind = till", week);
    expect(holds(both, week)).toBe(true);
    expect(widen(both, week)).toBe("kind = till");
  });

  it("excludes and quotes", () => {
    expect(exclude("", "kind = kiosk")).toBe("not (kind = kiosk)");
    expect(quoted("Saltholm")).toBe("Saltholm");
    expect(quoted('Port "A"')).toBe('"Port \\"A\\""');
  });
});
