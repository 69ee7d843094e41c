// @vitest-environment jsdom
import { act, renderHook } from "@testing-library/react";
import { afterEach, beforeEach, expect, test, vi } from "vitest";
import type { Change, Porch } from "./client";
import { current, follow, useLive, useSlowly } from "./live";

let tell: Record<string, (e: { data: string }) => void>;
let hidden: boolean;
let stop: () => void;

const at = new Date().toISOString();
const change = (seq: number, hush = false) =>
  tell["change"]!({ data: JSON.stringify({ seq, now: at, hush, coming: [], waiting: [], doors: [], entries: [] } as unknown as Change) });
const pass = (ms: number) => act(() => vi.advanceTimersByTime(ms));

beforeEach(() => {
  vi.useFakeTimers();
  hidden = false;
  tell = {};
  Object.defineProperty(document, "hidden", { configurable: true, get: () => hidden });
  vi.stubGlobal(
    "EventSource",
    class {
      addEventListener(name: string, f: (e: { data: string }) => void) {
        tell[name] = f;
      }
      close() {}
    },
  );
  stop = follow();
  tell["whole"]!({
    data: JSON.stringify({ seq: 0, now: at, hush: false, guests: [], entries: [], evening: { minutes: [], arrivals: [], raids: [], said: [] } } as unknown as Porch),
  });
  pass(300);
});
afterEach(() => {
  stop();
  vi.useRealTimers();
  vi.unstubAllGlobals();
});

test("a part of the page is drawn anew when what it picked has changed, and for nothing else", () => {
  let drawn = 0;
  const hush = renderHook(() => (drawn++, useLive((s) => s.hush)));
  const before = drawn;
  for (let seq = 1; seq <= 20; seq++) change(seq);
  pass(300);
  expect(drawn).toBe(before);
  change(21, true);
  pass(300);
  expect([hush.result.current, drawn]).toEqual([true, before + 1]);
});

test("many changes at once are drawn as one", () => {
  let drawn = 0;
  const seq = renderHook(() => (drawn++, useLive((s) => s.seq)));
  const before = drawn;
  for (let n = 31; n <= 80; n++) change(n);
  pass(300);
  expect([seq.result.current, drawn]).toEqual([80, before + 1]);
});

test("a hidden page keeps up and draws nothing, and is right when it is seen again", () => {
  const seq = renderHook(() => useLive((s) => s.seq));
  const was = seq.result.current;
  hidden = true;
  for (let n = 101; n <= 900; n++) change(n);
  pass(60_000);
  seq.rerender();
  expect([current()!.seq, seq.result.current]).toEqual([900, was]);
  hidden = false;
  act(() => void document.dispatchEvent(new Event("visibilitychange")));
  expect(seq.result.current).toBe(900);
});

test("what is only glanced at is drawn once in its time, with the newest there is", () => {
  let drawn = 0;
  const seq = renderHook(() => (drawn++, useSlowly(1000, (s) => s.seq)));
  pass(1100);
  const before = drawn;
  for (let n = 1001; n <= 1009; n++) {
    change(n);
    pass(100);
  }
  pass(1000);
  expect(seq.result.current).toBe(1009);
  expect(drawn - before).toBeLessThanOrEqual(2);
});
