import { expect, test } from "vitest";
import { into, percent, shares } from "./lookback";

test("a moment of a stream is told in hours, minutes and seconds", () => {
  expect([into(0), into(74), into(4442), into(36_000)]).toEqual(["0:00:00", "0:01:14", "1:14:02", "10:00:00"]);
});

test("the house share is of the minutes around, and nothing where nobody said anything", () => {
  const s = shares([0, 0, 0, 0, 0, 0, 0, 0, 0, 0, 0, 10], [0, 0, 0, 0, 0, 0, 0, 0, 0, 0, 0, 10]);
  expect(s[0]).toBe(0);
  expect(s[11]).toBe(0.5);
  expect(shares([3, 3], [1, 1]).map(percent)).toEqual(["25%", "25%"]);
});
