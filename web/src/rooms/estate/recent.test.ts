import { beforeEach, expect, test } from "vitest";
import { recent, remember } from "./recent";

beforeEach(() => localStorage.clear());

test("the latest comes first, each once, and no more than a dozen", () => {
  for (let n = 0; n < 15; n++) remember(`cores = ${n}`);
  remember("cores = 10");
  remember("  ");
  expect(recent().slice(0, 3)).toEqual(["cores = 10", "cores = 14", "cores = 13"]);
  expect(recent()).toHaveLength(12);
});

test("what is no list of questions is no question", () => {
  localStorage.setItem("estate.asked", "{broken");
  expect(recent()).toEqual([]);
  localStorage.setItem("estate.asked", '["a", 3]');
  expect(recent()).toEqual(["a"]);
});
