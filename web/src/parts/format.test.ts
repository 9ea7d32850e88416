import { describe, expect, it } from "vitest";
import { ago, agoWords, bits, bytes, duration, memory, plural, shown } from "./format";

const NOW = new Date("2026-08-03T12:00:00Z").getTime();

describe("numbers and times as people read them", () => {
  it("counts memory by 1024 and disks by 1000", () => {
    expect(memory(16 * 2 ** 30)).toBe("16 GB");
    expect(memory(1.5 * 2 ** 30)).toBe("1.5 GB");
    expect(bytes(480e9)).toBe("480 GB");
    expect(bytes(999)).toBe("999 B");
    expect(bits(1e9)).toBe("1 Gb/s");
    expect(bits(1e8)).toBe("100 Mb/s");
  });

  it("tells how long ago in the largest fitting unit", () => {
    expect(ago("2026-08-03T11:59:30Z", NOW)).toBe("just now");
    expect(ago("2026-08-03T11:20:00Z", NOW)).toBe("40 min");
    expect(ago("2026-08-02T06:00:00Z", NOW)).toBe("30 h");
    expect(ago("2026-07-20T12:00:00Z", NOW)).toBe("14 d");
    expect(agoWords("2026-08-03T11:59:30Z", NOW)).toBe("just now");
    expect(agoWords("2026-08-03T09:00:00Z", NOW)).toBe("3 h ago");
  });

  it("shows values by their type", () => {
    expect(shown("memory", "memory", 8 * 2 ** 30)).toBe("8 GB");
    expect(shown("choice", "kind", "access point")).toBe("Access point");
    expect(shown("text", "name", null)).toBe("");
    expect(plural(1, "address", "addresses")).toBe("1 address");
    expect(plural(1200, "address", "addresses")).toBe("1,200 addresses");
    expect(duration(95)).toBe("1 min 35 s");
  });
});
