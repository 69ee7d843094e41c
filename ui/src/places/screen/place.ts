import type { Box } from "../../overlay/frames";

/** Where a box is taken hold of to size it. */
export const handles = ["nw", "n", "ne", "w", "e", "sw", "s", "se"] as const;
export type Handle = (typeof handles)[number];

/** A box is never smaller, in per cent of its overlay. */
const least = 1;

const tidy = (n: number) => Math.round(n * 100) / 100;
const between = (n: number, low: number, high: number) => Math.min(Math.max(n, low), high);

/** moved is a box moved by so many per cent, kept inside. */
export function moved(b: Box, dx: number, dy: number): Box {
  return { ...b, left: tidy(between(b.left + dx, 0, 100 - b.wide)), top: tidy(between(b.top + dy, 0, 100 - b.high)) };
}

/** sized is a box drawn by one of its handles, kept inside; the side across stays where it is. */
export function sized(b: Box, h: Handle, dx: number, dy: number): Box {
  let { left, top } = b;
  let right = b.left + b.wide;
  let foot = b.top + b.high;
  if (h.includes("w")) left = between(left + dx, 0, right - least);
  if (h.includes("e")) right = between(right + dx, left + least, 100);
  if (h.startsWith("n")) top = between(top + dy, 0, foot - least);
  if (h.startsWith("s")) foot = between(foot + dy, top + least, 100);
  return { ...b, left: tidy(left), top: tidy(top), wide: tidy(right - left), high: tidy(foot - top) };
}
