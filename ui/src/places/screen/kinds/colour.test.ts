import { expect, test } from "vitest";
import { contrast } from "./colour";

test("black on white is as far as it gets, and a colour on itself as near", () => {
  expect(contrast("#000000", "#ffffff")).toBeCloseTo(21);
  expect(contrast("#f6a821", "#f6a821")).toBe(1);
  expect(contrast("#767676", "#ffffff")).toBeCloseTo(4.54, 1); // the grey that is known to just do
});
