// @vitest-environment jsdom
import { QueryClient, QueryClientProvider } from "@tanstack/react-query";
import { renderHook } from "@testing-library/react";
import type { ReactNode } from "react";
import { expect, test, vi } from "vitest";
import { useOnce } from "./deeds";

const wrapper = ({ children }: { children: ReactNode }) => <QueryClientProvider client={new QueryClient()}>{children}</QueryClientProvider>;

test("what counts each time is done once though it is pressed twice, and again once its answer has come", async () => {
  const { result } = renderHook(() => useOnce(), { wrapper });
  let answer: (given: { data: number }) => void = () => {};
  const give = vi.fn(() => new Promise<{ data: number }>((ok) => (answer = ok)));
  const first = result.current(give);
  expect(await result.current(give)).toBeUndefined();
  answer({ data: 50 });
  expect(await first).toBe(50);
  const third = result.current(give);
  answer({ data: 51 });
  expect(await third).toBe(51);
  expect(give).toHaveBeenCalledTimes(2);
});

test("what is being read anew holds up a second press only where nothing was done with the answer", async () => {
  const client = new QueryClient();
  vi.spyOn(client, "invalidateQueries").mockReturnValue(new Promise(() => {})); // never read
  const { result } = renderHook(() => [useOnce(), useOnce()] as const, { wrapper: ({ children }) => <QueryClientProvider client={client}>{children}</QueryClientProvider> });
  for (const [i, then, times] of [
    [0, vi.fn(), 2],
    [1, undefined, 1],
  ] as const) {
    const give = vi.fn(() => Promise.resolve({ data: 50 }));
    void result.current[i](give, { then, stale: [["points"]] });
    await new Promise((go) => setTimeout(go, 5));
    void result.current[i](give, { then, stale: [["points"]] });
    expect(give).toHaveBeenCalledTimes(times);
  }
});

test("what failed can be pressed again", async () => {
  const { result } = renderHook(() => useOnce(), { wrapper });
  const fault = vi.fn();
  await result.current(() => Promise.resolve({ error: { title: "The database is gone" } }), { fault });
  expect(fault).toHaveBeenCalled();
  expect(await result.current(() => Promise.resolve({ data: 50 }))).toBe(50);
});
