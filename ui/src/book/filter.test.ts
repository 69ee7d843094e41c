import { expect, test } from "vitest";
import { filterKeys, readFilter, said } from "./filter";

test("what the table is narrowed to stands in the address, and nothing else of it is taken", () => {
  const p = new URLSearchParams("crew=lantern-row&trusted=1&from=6&raid=x&sort=seen&tag=");
  expect(readFilter(p)).toEqual({ crew: "lantern-row", trusted: true, from: 6 });
});

test("every condition has a chip that says it", () => {
  const p = new URLSearchParams(filterKeys.map((k) => [k, ["since", "until"].includes(k) ? "2031-05-14T00:00:00Z" : "3"]));
  const chips = said(readFilter(p), (id) => `crew ${id}`, "Europe/Lisbon");
  const silent = filterKeys.filter((k) => !chips.some((c) => c.key === k));
  expect(silent).toEqual(["text"]); // it stands in the search field
  expect(chips.every((c) => c.text.trim() !== "")).toBe(true);
});

test("a crew is named, not numbered", () => {
  expect(said({ crew: "quiet-moths" }, () => "Quiet Moths", "Europe/Lisbon")).toEqual([{ key: "crew", text: "in Quiet Moths" }]);
});

test("a day stands as it is in the channel's zone", () => {
  expect(said({ since: "2031-05-14T23:30:00Z" }, String, "Europe/Lisbon")).toEqual([{ key: "since", text: "seen since 15 May 2031" }]);
});
