import { afterEach, expect, test } from "vitest";
import { companyDay, daysFrom, formatted, inZone, shownMoment } from "./days";
import { day, moment, today } from "./format";

afterEach(() => inZone("UTC"));

test.each([
  ["Pacific/Auckland", "2026-08-03T13:00:00Z", "2026-08-04"],
  ["America/Anchorage", "2026-08-03T05:00:00Z", "2026-08-02"],
  ["UTC", "2026-08-03T23:59:59Z", "2026-08-03"],
])("in %s a moment is of the company's day", (zone, iso, expected) => {
  inZone(zone);
  expect(companyDay(Date.parse(iso))).toBe(expected);
});

test("a day is that day in every zone, a moment is told by the company's clock", () => {
  inZone("America/Anchorage");
  expect(day("2026-08-03")).toBe("3 August 2026");
  expect(moment("2026-08-03T05:00:00Z")).toBe("2 Aug, 21:00");
  expect(formatted({ month: "short" }, "2026-08-01")).toBe("Aug");
  expect(today()).toBe(companyDay());
});

test("the dial's day ends when the company's does, by summer time as by winter time", () => {
  inZone("Europe/Oslo");
  expect(new Date(shownMoment("2026-08-03")).toISOString()).toBe("2026-08-03T21:59:59.000Z");
  expect(new Date(shownMoment("2026-12-03")).toISOString()).toBe("2026-12-03T22:59:59.000Z");
  expect(shownMoment("2026-08-03T10:00:00Z")).toBe(Date.parse("2026-08-03T10:00:00Z"));
  expect(Math.abs(shownMoment(undefined) - Date.now())).toBeLessThan(1000);
  expect(daysFrom("2026-03-01", -1)).toBe("2026-02-28");
});
