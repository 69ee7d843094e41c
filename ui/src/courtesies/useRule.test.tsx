// @vitest-environment jsdom
import { QueryClient, QueryClientProvider } from "@tanstack/react-query";
import { act, renderHook, waitFor } from "@testing-library/react";
import type { ReactNode } from "react";
import { afterEach, beforeEach, expect, test, vi } from "vitest";
import type { CourtesyView } from "../api/client";

type Put = { to: string; base: string; body: Record<string, unknown>; answer: (r: Response) => void };

const inForce = (version: number, changed = true) => Response.json({ version, changed });

// A house that answers each change when it is told to.
const house = vi.hoisted(() => {
  const there = globalThis.Request;
  globalThis.Request = class extends there {
    constructor(to: RequestInfo | URL, init?: RequestInit) {
      super(typeof to === "string" ? new URL(to, "http://porch.example") : to, init);
    }
  };
  const house = { puts: [] as Put[], goes: false };
  globalThis.fetch = async (to) => {
    const req = to as Request;
    const body = (await req.json()) as Record<string, unknown>;
    if (house.goes) return inForce(9);
    return new Promise<Response>((answer) => house.puts.push({ to: new URL(req.url).pathname, base: req.headers.get("X-Porch-Base") ?? "", body, answer }));
  };
  return house;
});

import { api } from "../api/client";
import { courtesies } from "../api/queries";
import { useChange } from "./useChange";
import { usePressed } from "./usePressed";
import { useRule } from "./useRule";

const courtesy = (group?: string) => ({ id: "thank-tip", on: true, rule: { when: "support.tipped", who: {}, outputs: [], group }, outputs: [] }) as unknown as CourtesyView;
const wrapper = ({ children }: { children: ReactNode }) => <QueryClientProvider client={new QueryClient()}>{children}</QueryClientProvider>;
const start = () => renderHook(({ c, version }) => useRule(c, version), { wrapper, initialProps: { c: courtesy(), version: 4 } });

beforeEach(() => {
  house.puts.length = 0;
});
afterEach(async () => {
  house.goes = true; // whatever is still on its way arrives
  house.puts.forEach((p) => p.answer(inForce(9)));
  await new Promise((r) => setTimeout(r, 20));
  house.goes = false;
});

test("what is changed while an earlier change is on its way waits for it, and is made on what it came to", async () => {
  const { result } = start();
  act(() => result.current.change({ group: "the tin" }));
  await waitFor(() => expect(house.puts).toHaveLength(1));
  act(() => result.current.change({ group: "the tin box" }));
  await new Promise((r) => setTimeout(r, 800)); // longer than the quiet after which it would go out
  expect(house.puts).toHaveLength(1);
  await act(async () => house.puts[0]!.answer(inForce(5)));
  await waitFor(() => expect(house.puts).toHaveLength(2));
  expect(house.puts.map((p) => [p.base, p.body["group"]])).toEqual([
    ["4", "the tin"],
    ["5", "the tin box"],
  ]);
});

test("where somebody else changed something in between, the second change is put beside theirs", async () => {
  const { result } = start();
  act(() => result.current.change({ group: "the tin" }));
  await waitFor(() => expect(house.puts).toHaveLength(1));
  act(() => result.current.change({ group: "the tin box" }));
  await act(async () => house.puts[0]!.answer(inForce(7)));
  await waitFor(() => expect(house.puts).toHaveLength(2));
  expect(house.puts[1]!.base).toBe("4");
});

test("what is read of the settings while a change is on its way does not take it back", async () => {
  const { result, rerender } = start();
  act(() => result.current.change({ group: "the tin" }));
  await waitFor(() => expect(house.puts).toHaveLength(1));
  rerender({ c: courtesy(), version: 5 });
  expect(result.current.rule.group).toBe("the tin");
  rerender({ c: courtesy("the jar"), version: 6 });
  await act(async () => house.puts[0]!.answer(inForce(6)));
  await waitFor(() => expect(result.current.rule.group).toBe("the jar"));
});

test("a switch shows as it was last pressed, and two presses go out in their order", async () => {
  const { result } = renderHook(() => usePressed(), { wrapper });
  const all = { version: 4, courtesies: [courtesy()] } as never;
  const shows = () => result.current.over(all).courtesies[0]!.on;
  const press = (on: boolean) =>
    act(() => void result.current.press("thank-tip", on, () => api.POST("/api/courtesies/{id}/switch", { params: { path: { id: "thank-tip" } }, body: { on } })));
  press(false);
  expect(shows()).toBe(false);
  press(true);
  expect(shows()).toBe(true);
  await waitFor(() => expect(house.puts.map((p) => p.body["on"])).toEqual([false]));
  await act(async () => house.puts[0]!.answer(inForce(5)));
  expect(shows()).toBe(true);
  await waitFor(() => expect(house.puts.map((p) => p.body["on"])).toEqual([false, true]));
  press(false);
  await act(async () => house.puts[1]!.answer(inForce(6)));
  expect(shows()).toBe(false);
  await waitFor(() => expect(house.puts).toHaveLength(3));
  await act(async () => house.puts[2]!.answer(inForce(7)));
  await waitFor(() => expect(shows()).toBe(true)); // what the settings say
});

test("a switch that was pressed shows so when the view is left and come back to, before the settings are read again", async () => {
  const client = new QueryClient();
  const within = ({ children }: { children: ReactNode }) => <QueryClientProvider client={client}>{children}</QueryClientProvider>;
  client.setQueryData(courtesies.queryKey, { version: 4, courtesies: [courtesy()] } as never);
  const come = () => renderHook(() => usePressed().over(client.getQueryData(courtesies.queryKey)!).courtesies[0]!.on, { wrapper: within });
  const view = renderHook(() => usePressed(), { wrapper: within });
  act(
    () =>
      void view.result.current.press("thank-tip", false, (then) =>
        api.POST("/api/courtesies/{id}/switch", { params: { path: { id: "thank-tip" } }, body: { on: false } }).then(then),
      ),
  );
  view.unmount();
  const before = come();
  expect(before.result.current).toBe(false);
  await waitFor(() => expect(house.puts).toHaveLength(1));
  before.unmount();
  await act(async () => house.puts[0]!.answer(inForce(5)));
  await waitFor(() => expect(client.getQueryData(courtesies.queryKey)!.courtesies[0]!.on).toBe(false));
  expect(come().result.current).toBe(false);
});

test("a change that changed nothing does not stand on what somebody else made meanwhile", async () => {
  const { result } = start();
  act(() => result.current.change({ group: undefined }));
  await waitFor(() => expect(house.puts).toHaveLength(1));
  act(() => result.current.change({ group: "the tin" }));
  await act(async () => house.puts[0]!.answer(inForce(5, false))); // five is another member's
  await waitFor(() => expect(house.puts).toHaveLength(2));
  expect(house.puts[1]!.base).toBe("4");
});

test("what is changed and changed back before the page is drawn anew ends as it was", async () => {
  const { result } = renderHook(() => useChange(4), { wrapper });
  act(() => void result.current(courtesy("the tin"), { group: "the jar" }));
  act(() => void result.current(courtesy("the tin"), (r) => ({ group: r.group === "the jar" ? "the tin" : "?" })));
  await waitFor(() => expect(house.puts).toHaveLength(1));
  await act(async () => house.puts[0]!.answer(inForce(5)));
  await waitFor(() => expect(house.puts).toHaveLength(2));
  expect(house.puts.map((p) => [p.base, p.body["group"]])).toEqual([
    ["4", "the jar"],
    ["5", "the tin"],
  ]);
});

test("one's own change that others' went between is no ground for the next: that is made on what the page shows", async () => {
  const { result } = renderHook(() => useChange(4), { wrapper });
  act(() => void result.current(courtesy(), { group: "the jar" }));
  await waitFor(() => expect(house.puts).toHaveLength(1));
  await act(async () => house.puts[0]!.answer(inForce(6)));
  act(() => void result.current(courtesy(), { away: true }));
  await waitFor(() => expect(house.puts).toHaveLength(2));
  expect([house.puts[1]!.base, house.puts[1]!.body["group"]]).toEqual(["4", undefined]);
});
