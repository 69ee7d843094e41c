import { expect, test, vi } from "vitest";
import type { Change, Entry, Porch } from "./client";
import { current, follow, merge, mostPending } from "./live";

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

test("a hidden tab, which gets no frame and its timers late, gathers a bounded number of changes and is right when seen again", () => {
  const on: Record<string, (e: { data: string }) => void> = {};
  vi.useFakeTimers();
  vi.stubGlobal("document", { hidden: true, addEventListener: () => undefined, removeEventListener: () => undefined });
  vi.stubGlobal("requestAnimationFrame", () => {
    throw new Error("a hidden tab gets no frame");
  });
  vi.stubGlobal(
    "EventSource",
    class {
      addEventListener(name: string, f: (e: { data: string }) => void) {
        on[name] = f;
      }
      close() {}
    },
  );
  const stop = follow();
  const at = new Date().toISOString();
  const change = (seq: number) => ({ seq, now: at, coming: [], waiting: [], doors: [], entries: [line(`l${seq}`)] }) as unknown as Change;
  on["whole"]!({ data: JSON.stringify({ seq: 0, now: at, guests: [], entries: [], evening: { minutes: [], arrivals: [], raids: [], said: [] } } as unknown as Porch) });
  for (let seq = 1; seq <= 4000; seq++) {
    on["change"]!({ data: JSON.stringify(change(seq)) });
    expect(seq - (current()?.seq ?? 0), "changes that wait").toBeLessThanOrEqual(mostPending);
  }
  vi.advanceTimersByTime(60_000);
  expect(current()!.seq).toBe(4000);
  expect(current()!.entries.map((e) => e.id)).toEqual(Array.from({ length: 4000 }, (_, i) => `l${i + 1}`));
  stop();
  vi.useRealTimers();
  vi.unstubAllGlobals();
});
