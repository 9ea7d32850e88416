import { afterEach, expect, test, vi } from "vitest";
import { Schedule } from "./Schedule";
import { chosen, ruleOf } from "./schedule";
import { type Shown, show } from "./testing";

let shown: Shown;
afterEach(() => shown?.end());

test.each([
  ["FREQ=HOURLY;INTERVAL=4;BYMINUTE=0", "hours"],
  ["FREQ=DAILY;BYHOUR=1;BYMINUTE=30", "day"],
  ["FREQ=WEEKLY;BYDAY=MO,FR;BYHOUR=12;BYMINUTE=0", "days"],
  ["FREQ=MONTHLY;BYMONTHDAY=28;BYHOUR=7;BYMINUTE=5", "month"],
])("%s is chosen and comes back as it was", (rule, every) => {
  const held = chosen(rule);
  expect(held.every).toBe(every);
  expect(ruleOf(held)).toBe(rule);
});

test.each([
  "FREQ=DAILY;INTERVAL=2;BYHOUR=6;BYMINUTE=0",
  "FREQ=MONTHLY;BYMONTHDAY=31;BYHOUR=7",
  "FREQ=MONTHLY;BYDAY=1MO;BYHOUR=7",
  "FREQ=WEEKLY;BYDAY=MO;BYHOUR=7,19",
  "FREQ=DAILY;BYHOUR=6;COUNT=3",
  "every tuesday",
])("%s says more than can be chosen and stays a rule", (rule) => {
  expect(chosen(rule).every).toBe("rule");
});

test("a schedule is chosen, and one's own rule is typed only where it is asked for", async () => {
  const set = vi.fn();
  shown = await show(<Schedule label="Starts" rule="" set={set} none="by hand" />);
  await shown.type("Starts", "days");
  await shown.type("At", "12:30");
  await shown.click(shown.one("[aria-label='Days of the week'] label:nth-child(3) input"));
  expect(set).toHaveBeenLastCalledWith("FREQ=WEEKLY;BYDAY=MO,WE;BYHOUR=12;BYMINUTE=30");
  await shown.type("Starts", "month");
  await shown.type("On the", "40");
  expect(set).toHaveBeenLastCalledWith("FREQ=MONTHLY;BYMONTHDAY=28;BYHOUR=12;BYMINUTE=30");
  await shown.type("Starts", "");
  expect(set).toHaveBeenLastCalledWith("");
  shown.end();
  shown = await show(<Schedule label="Starts" rule="FREQ=DAILY;COUNT=3" set={set} wrong="It has ended." />);
  expect(shown.one("[role=alert], .text-error").textContent).toContain("It has ended.");
});
