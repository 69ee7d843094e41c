import { expect, test } from "vitest";
import { emoji, picked } from "./emoji";

test("an emoji is found by its name, by a word of it, and by what else it is known by", async () => {
  const all = await emoji();
  const first = (word: string) => picked(all, word)[0]?.text;
  expect(first("octopus")).toBe("🐙");
  expect(first("Octo")).toBe("🐙");
  expect(first("lobster")).toBe("🦞");
  expect(picked(all, "wave").map((e) => e.text)).toContain("🌊");
  expect(picked(all, "party").map((e) => e.text)).toContain("🎉");
  expect(picked(all, "zzzz")).toEqual([]);
  expect(picked(all, "a")).toHaveLength(12);
});

test("no emoji that is offered is only a part of others", async () => {
  const all = await emoji();
  expect(all.length).toBeGreaterThan(1500);
  expect(all.some((e) => e.name.startsWith("regional indicator"))).toBe(false);
});
