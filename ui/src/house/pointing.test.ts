import { expect, test } from "vitest";
import { ifWords, pathWords, plainly, step, valueAt } from "./pointing";

const coin = { kind: "coin", from: { "a/b": "lena", "~": 7, list: [1, { says: null }] }, "": 5 };

test("a pointer is made step by step and leads back to what was clicked", () => {
  for (const [path, want] of [
    [["kind"], "coin"],
    [["from", "a/b"], "lena"],
    [["from", "~"], 7],
    [["from", "list", 1, "says"], null],
    [[""], 5],
  ] as const) {
    const at = path.reduce<string>((p, k) => step(p, k), "");
    expect(valueAt(coin, at), at).toBe(want);
  }
});

test("a pointer into nothing leads nowhere", () => {
  for (const at of ["/none", "/kind/0", "/from/list/01", "/from/list/-", "/from/list/9", "/toString", "/from/list/length"]) expect(valueAt(coin, at), at).toBeUndefined();
});

test("where it leads and when a reading holds is said in words", () => {
  expect(pathWords("/from/a~1b")).toBe("from › a/b");
  expect(plainly(null)).toBeUndefined();
  expect(plainly(false)).toBe("false");
  expect(
    ifWords({
      name: "c",
      makes: "porch.support.tipped",
      take: {},
      if: [
        { at: "/kind", how: "is", is: "coin" },
        { at: "/from", how: "is there" },
      ],
    }),
  ).toBe("kind is “coin” and from is there");
  expect(ifWords({ name: "c", makes: "porch.other", take: {} })).toBe("whatever comes");
});
