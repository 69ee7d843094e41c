import { expect, test } from "vitest";
import { timesOf } from "./Times";

const opened = Date.parse("2031-05-14T19:00:00Z");
const texts = (minutes: number) => timesOf(opened, minutes * 60_000, "UTC").map((t) => t.text);

test("an evening has six hours below it, and in a short one no minute stands twice but for its opening and its closing", () => {
  expect(texts(200)).toEqual(["19:00", "19:40", "20:20", "21:00", "21:40", "22:20"]);
  expect(texts(3)).toEqual(["19:00", "19:01", "19:02", "19:03"]);
  expect(texts(1)).toEqual(["19:00", "19:01"]);
  expect(texts(0.5)).toEqual(["19:00", "19:00"]);
});
