import { expect, test } from "vitest";
import type { Entry } from "./client";
import { merge } from "./live";

const line = (id: string, more: Partial<Entry> = {}) => ({ id, kind: "line", text: id, ...more }) as Entry;
const said = (id: string, state: string, text?: string) => ({ id, kind: "house", state, text }) as Entry;

test("what is told twice stands once, at its place", () => {
  const list = merge([line("a"), line("b")], [line("a", { text: "a, corrected" }), line("c")]);
  expect(list.map((e) => e.text)).toEqual(["a, corrected", "b", "c"]);
});

test("a house line that was said keeps its words, and one that was never seen is not made up", () => {
  const list = merge([said("h1", "sending", "Evening, all.")], [said("h1", "said"), said("h2", "said")]);
  expect(list).toEqual([{ id: "h1", kind: "house", state: "said", text: "Evening, all." }]);
});

test("nothing new leaves the very list that was there", () => {
  const list = [line("a")];
  expect(merge(list, [])).toBe(list);
  expect(merge(list, undefined)).toBe(list);
});

test("a long evening keeps its last five thousand entries", () => {
  const list = merge(
    Array.from({ length: 5499 }, (_, i) => line(`l${i}`)),
    [line("x"), line("y")],
  );
  expect(list.length).toBe(5000);
  expect(list.at(-1)!.id).toBe("y");
});
