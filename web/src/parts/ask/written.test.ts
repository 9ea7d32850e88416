import { expect, test } from "vitest";
import { both, fieldText, inSet, quoted } from "./written";

test("a value stands in quotes only where it needs them", () => {
  expect(quoted("Saltholm")).toBe("Saltholm");
  expect(quoted('Port "A"')).toBe('"Port \\"A\\""');
  expect(inSet("Bridge systems")).toBe('in set "Bridge systems"');
  expect(fieldText("field:Berth side")).toBe('field("Berth side")');
});

test("questions are joined so that an “or” stays together", () => {
  expect(both("", "kind = server")).toBe("kind = server");
  expect(both("kind = server or kind = till", "place = Saltholm")).toBe(
    "(kind = server or kind = till) and place = Saltholm",
  );
  expect(both("place = Oropol", undefined, "name ~ a")).toBe("place = Oropol and name ~ a");
  expect(both(undefined, "")).toBe("");
});
