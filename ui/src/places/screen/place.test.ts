import { expect, test } from "vitest";
import type { Box } from "../../overlay/frames";
import { moved, sized } from "./place";

const cards = { id: "cards", kind: "cards", left: 3, top: 5, wide: 46, high: 35 } as Box;

test("a box is moved, and stays inside", () => {
  expect(moved(cards, 10, -2)).toMatchObject({ left: 13, top: 3, wide: 46, high: 35 });
  expect(moved(cards, 90, 90)).toMatchObject({ left: 54, top: 65 });
  expect(moved(cards, -90, -90)).toMatchObject({ left: 0, top: 0 });
});

test("a box is sized by a handle: the side across stays", () => {
  expect(sized(cards, "se", 10, 5)).toMatchObject({ left: 3, top: 5, wide: 56, high: 40 });
  expect(sized(cards, "nw", 2, 5)).toMatchObject({ left: 5, top: 10, wide: 44, high: 30 });
  expect(sized(cards, "e", 90, 90)).toMatchObject({ left: 3, top: 5, wide: 97, high: 35 });
});

test("a box is never smaller than it can be taken hold of", () => {
  expect(sized(cards, "w", 90, 0)).toMatchObject({ left: 48, wide: 1 });
  expect(sized(cards, "n", 0, 90)).toMatchObject({ top: 39, high: 1 });
});
