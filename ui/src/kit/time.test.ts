import { expect, test } from "vitest";
import { ago, clock, dated, day, dayBegins, dayEnds, lastSeen, nth, span } from "./time";

const now = Date.parse("2031-05-14T19:00:00Z");
const zone = "Europe/Lisbon";

test("moments are written in the channel's zone, whatever the browser's", () => {
  expect(clock("2031-05-14T23:30:00Z", "Europe/Lisbon")).toBe("00:30");
  expect(clock("2031-05-14T23:30:00Z", "Pacific/Auckland")).toBe("11:30");
});

test("lengths and distances take the largest unit that fits", () => {
  expect([span(-5), span(9_400), span(14 * 60_000), span(136 * 60_000)]).toEqual(["0 s", "9 s", "14 min", "2 h 16"]);
  const back = (days: number) => ago(new Date(now - days * 86_400_000).toISOString(), now, zone);
  expect([0.4, 1, 13, 14, 60, 800].map(back)).toEqual(["today", "1 day", "13 days", "2 weeks", "1 month", "2 years"]);
});

test("who is here was seen tonight, and who never came never", () => {
  expect(lastSeen({ here: true }, now, zone)).toBe("tonight");
  expect(lastSeen({}, now, zone)).toBe("never");
  expect(lastSeen({ lastSeen: "0001-01-01T00:00:00Z" }, now, zone)).toBe("never");
  expect(lastSeen({ lastSeen: "2031-05-11T19:00:00Z" }, now, zone)).toBe("3 days ago");
});

test("a day of another year says which", () => {
  expect(dated("2031-03-02T12:00:00Z", now, zone)).toBe("2 Mar");
  expect(dated("2029-03-02T12:00:00Z", now, zone)).toBe("2 Mar 2029");
});

test("streams are counted as one says them", () => {
  expect([1, 2, 3, 4, 11, 12, 13, 21, 102, 113].map(nth)).toEqual(["1st", "2nd", "3rd", "4th", "11th", "12th", "13th", "21st", "102nd", "113th"]);
});

test("today is the channel's day, wherever the page is looked at", () => {
  const late = Date.parse("2031-05-14T23:30:00Z"); // half past midnight in Lisbon, the afternoon of the 14th in Vancouver
  expect([day(late, "Europe/Lisbon"), day(late, "America/Vancouver"), day(late, "Pacific/Auckland")]).toEqual(["2031-05-15", "2031-05-14", "2031-05-15"]);
  expect(ago("2031-05-14T22:00:00Z", late, "Europe/Lisbon")).toBe("1 day");
  expect(ago("2031-05-14T22:00:00Z", late, "America/Vancouver")).toBe("today");
  expect(dated("2031-12-31T23:30:00Z", late, "Europe/Lisbon")).toBe("31 Dec");
  expect(dated("2031-12-31T23:30:00Z", late, "Pacific/Auckland")).toBe("1 Jan 2032");
});

test("a day begins and ends at the channel's midnight, also where a clock was changed that day", () => {
  expect(dayEnds("2031-05-14", "Europe/Lisbon")).toBe("2031-05-14T22:59:59.999Z");
  expect(dayEnds("2031-03-30", "Europe/Lisbon")).toBe("2031-03-30T22:59:59.999Z"); // 23 hours long
  expect(dayBegins(now, -60, "Europe/Lisbon")).toBe("2031-03-15T00:00:00.000Z"); // before summer time
});
