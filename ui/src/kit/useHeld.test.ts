// @vitest-environment jsdom
import { act, renderHook } from "@testing-library/react";
import { expect, test } from "vitest";
import { useHeld } from "./useHeld";

type Line = { id: string; due: number };
const line = (id: string, due = 5): Line => ({ id, due });
const held = (first: Line[]) => renderHook(({ list }) => useHeld(list, (l) => l.id), { initialProps: { list: first } });
const shown = (h: ReturnType<typeof held>) => h.result.current.list.map((l) => `${l.id}${h.result.current.isGone(l) ? " gone" : ` ${l.due}`}`);

test("nothing moves under the hand: who comes stands last, what is gone stays until the hand leaves", () => {
  const a = line("a");
  const b = line("b");
  const h = held([a, b]);
  act(() => h.result.current.holds.onPointerEnter());
  h.rerender({ list: [line("new"), b] });
  expect(shown(h)).toEqual(["a gone", "b 5", "new 5"]);
  h.rerender({ list: [line("newer"), line("new"), b] });
  expect(shown(h)).toEqual(["a gone", "b 5", "new 5", "newer 5"]);
  act(() => h.result.current.holds.onPointerLeave());
  expect(shown(h)).toEqual(["newer 5", "new 5", "b 5"]);
});

test("what stays in its place goes on counting down", () => {
  const h = held([line("a", 9)]);
  act(() => h.result.current.holds.onFocus());
  h.rerender({ list: [line("a", 3)] });
  expect(shown(h)).toEqual(["a 3"]);
});
