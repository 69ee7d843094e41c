import { parseISO } from "date-fns";
import { expect, test } from "vitest";
import type { Dates } from "../api/client";
import { says, stretch, tide, yearOf } from "./dates";

const day = (on: string, kind: "birthday" | "follow" = "birthday") => ({ person: 1, name: "limpet_lena", kind, on, years: 3 });
const house = (...year: ReturnType<typeof day>[]) =>
  ({ today: "2026-11-26", entries: [], missed: [], coming: [], year, evenings: ["Sunday"], people: 1, more: false }) as unknown as Dates;
const all = () => true;

test("a year has twelve months from this one on, and each day stands in its month", () => {
  const y = yearOf(house(day("2026-12-03"), day("2027-03-09"), day("2027-03-09", "follow"), day("2027-10-29")), all);
  expect(y.months.map((m) => m.name).join(" ")).toBe("Nov Dec Jan Feb Mar Apr May Jun Jul Aug Sep Oct");
  expect(y.cells.map((c) => [c.row, c.day, c.list.length])).toEqual([
    [1, 3, 1],
    [4, 9, 2],
    [11, 29, 1],
  ]);
  expect(y.months[4]!.count).toBe(2);
});

test("a day of this month that is over stands where it was", () => {
  const [c] = yearOf(house(day("2027-11-03")), all).cells;
  expect(c).toMatchObject({ row: 0, day: 3, past: true, on: "2026-11-03" });
});

test("kinds that are not shown stand nowhere", () => {
  expect(yearOf(house(day("2026-12-03", "follow")), (k) => k === "birthday").cells).toEqual([]);
});

test("the tide is high where dates crowd and low where there are none", () => {
  const y = yearOf(house(day("2026-12-10"), day("2026-12-10", "follow"), day("2026-12-11")), all);
  const t = tide(y, 1);
  expect(t[10 * 4]).toBeGreaterThan(0.4);
  expect(t[30 * 4]).toBeLessThan(0.01);
  expect(t.every((v) => v >= 0 && v <= 1)).toBe(true);
});

test("a stretch of days goes on in the next row", () => {
  const y = yearOf(house(), all);
  expect(stretch(y, parseISO("2026-11-27"), parseISO("2026-12-26"))).toEqual([
    [0, 27, 30],
    [1, 1, 26],
  ]);
});

test("a day is told as people say it", () => {
  expect(says({ kind: "birthday", years: 0 })).toBe("birthday");
  expect(says({ kind: "birthday", years: 40 })).toBe("birthday, turns 40");
  expect(says({ kind: "follow", years: 1 })).toBe("follows 1 year");
  expect(says({ kind: "first visit", years: 2 })).toBe("first came 2 years ago");
  expect(says({ kind: "round number", years: 50 })).toBe("50th stream");
});
