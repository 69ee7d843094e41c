import { expect, test } from "vitest";
import { drawn, type Mark } from "./evening";

const opened = Date.parse("2031-05-14T19:00:00Z");
const hour = 3_600_000;
/** arrivals are so many newcomers, so many seconds apart, from a minute on. */
const arrivals = (n: number, minute: number, apart = 1): Mark[] =>
  Array.from({ length: n }, (_, i) => ({
    id: `${minute}-${i}`,
    at: new Date(opened + minute * 60_000 + i * apart * 1000).toISOString(),
    standing: "newcomer",
    name: `limpet${i}`,
  }));
const evening = (marks: Mark[], raids: Mark[] = []) => drawn({ minutes: [], arrivals: marks, raids, said: [], pins: [] }, opened, hour, 1000, { ground: 60 });

test("close arrivals are one stack with their count, and the next shape leaves room for it", () => {
  expect(evening(arrivals(2, 10, 60)).stacks.map((s) => s.n)).toEqual([1, 1]);
  expect(evening(arrivals(40, 10)).stacks.map((s) => s.n)).toEqual([40]);
  const gap = (n: number) => {
    const wave: Mark = { id: "r", at: new Date(opened + 11 * 60_000).toISOString(), name: "kelpwright", viewers: 9 };
    const [many, raid] = evening(arrivals(n, 10, 0.5), [wave]).stacks;
    expect([many!.n, raid!.shape]).toEqual([n, "wave"]);
    return raid!.x - many!.x;
  };
  const figure = 7; // px that a figure of the count takes
  expect(gap(40) - gap(4)).toBe(figure);
  expect(gap(4)).toBeGreaterThanOrEqual(14 + figure);
});
