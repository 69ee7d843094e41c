// @vitest-environment jsdom
import { QueryClient, QueryClientProvider } from "@tanstack/react-query";
import { act, renderHook, waitFor } from "@testing-library/react";
import type { ReactNode } from "react";
import { afterEach, beforeEach, expect, test, vi } from "vitest";
import { clash } from "../api/clash";
import { inPassing } from "../api/toast";

type Put = { base: string; value: unknown; answer: (r: Response) => void };

// A house at version 3 that answers each change when it is told to.
const house = vi.hoisted(() => {
  const there = globalThis.Request;
  globalThis.Request = class extends there {
    constructor(to: RequestInfo | URL, init?: RequestInit) {
      super(typeof to === "string" ? new URL(to, "http://porch.example") : to, init);
    }
  };
  const house = { puts: [] as Put[], goes: false, away: false, version: 3, settings: {} as Record<string, unknown> };
  globalThis.fetch = async (to) => {
    const req = to as Request;
    if (house.away) return Response.json({ title: "Vivid Porch cannot keep anything now", remedy: "the database does not answer" }, { status: 503 });
    if (req.method !== "PUT") return Response.json({ version: house.version, settings: house.settings, secrets: [], hosts: [], profiles: [] });
    const { value } = (await req.json()) as { value: unknown };
    if (house.goes) return Response.json({ version: house.version, changed: true });
    return new Promise<Response>((done) => house.puts.push({ base: req.headers.get("X-Porch-Base") ?? "", value, answer: done }));
  };
  return house;
});

import { useSection } from "./useSection";

async function stub() {
  const client = new QueryClient({ defaultOptions: { queries: { retry: false } } });
  const wrapper = ({ children }: { children: ReactNode }) => <QueryClientProvider client={client}>{children}</QueryClientProvider>;
  return { puts: house.puts, state: house, wrapper };
}

beforeEach(() => {
  house.puts.length = 0;
  house.version = 3;
  house.settings = { pace: { gapSeconds: 3 }, name: "the boathouse" };
});
afterEach(async () => {
  house.goes = true; // whatever is still on its way arrives
  house.puts.forEach((p) => p.answer(Response.json({ version: house.version, changed: true })));
  await new Promise((r) => setTimeout(r, 20));
  house.goes = false;
  clash.set(undefined);
});

test("what is typed stands in the form, and is in force once it is saved", async () => {
  const { puts, state, wrapper } = await stub();
  const { result } = renderHook(() => useSection("name"), { wrapper });
  await waitFor(() => expect(result.current.version).toBe(3));
  act(() => result.current.set("the lamp house"));
  expect(result.current.value).toBe("the lamp house");
  act(() => void result.current.save());
  await waitFor(() => expect(puts).toHaveLength(1));
  expect(puts[0]).toMatchObject({ base: "3", value: "the lamp house" });
  state.settings = { ...state.settings, name: "the lamp house" };
  state.version = 4;
  await act(async () => puts[0]!.answer(Response.json({ version: 4, changed: true })));
  await waitFor(() => expect(result.current.saved).toBe(true));
  expect(result.current.value).toBe("the lamp house");
});

test("what is typed and left before the settings have come is saved once they are there", async () => {
  const { puts, wrapper } = await stub();
  const { result } = renderHook(() => useSection("name"), { wrapper });
  act(() => result.current.set("the lamp house"));
  act(() => void result.current.save());
  await waitFor(() => expect(puts).toHaveLength(1));
  expect(puts[0]).toMatchObject({ base: "3", value: "the lamp house" });
});

test("what is typed before the settings, which do not come, stands in the form, is said not to be in force, and is saved on leaving once more", async () => {
  const { puts, state, wrapper } = await stub();
  state.away = true;
  const { result } = renderHook(() => useSection("name"), { wrapper });
  act(() => result.current.set("the lamp house"));
  let kept = true;
  await act(async () => (kept = await result.current.save()));
  expect(kept).toBe(false);
  expect(inPassing.current().map((n) => n.text)).toEqual([expect.stringContaining("the database does not answer")]);
  expect(result.current.value).toBe("the lamp house");
  state.away = false;
  act(() => void result.current.save());
  await waitFor(() => expect(puts).toHaveLength(1));
  expect(puts[0]).toMatchObject({ base: "3", value: "the lamp house" });
});

test("what is made before the settings have come is one more of what they have, and takes nothing away", async () => {
  const { puts, state, wrapper } = await stub();
  state.settings = { ...state.settings, places: [{ name: "news" }] };
  const list = renderHook(() => useSection("places"), { wrapper });
  const part = renderHook(() => useSection("pace"), { wrapper });
  act(() => void list.result.current.put([{ name: "lamp-log" }] as never));
  act(() => void part.result.current.put({ joinAt: 4 } as never));
  await waitFor(() => expect(puts).toHaveLength(1));
  await act(async () => puts[0]!.answer(Response.json({ version: 4, changed: true })));
  await waitFor(() => expect(puts).toHaveLength(2));
  expect(puts.map((p) => p.value)).toEqual([[{ name: "news" }, { name: "lamp-log" }], { gapSeconds: 3, joinAt: 4 }]);
});

test.each([
  ["rooms", { points: { on: true } }, { points: { on: true, one: "pearl" } }, { bookmark: { lead: 30 }, points: { on: true, one: "pearl" } }],
  ["places", [{ name: "lamp-log" }], [{ name: "the-lamp-log" }], [{ name: "news" }, { name: "the-lamp-log" }]],
] as const)("what is typed on what was made before the settings had come keeps all that they have: %s", async (section, first, second, whole) => {
  const { puts, state, wrapper } = await stub();
  state.settings = { rooms: { bookmark: { lead: 30 } }, places: [{ name: "news" }] };
  const { result } = renderHook(() => useSection(section), { wrapper });
  act(() => void result.current.put(first as never));
  await waitFor(() => expect(puts).toHaveLength(1));
  act(() => result.current.set(second as never));
  await act(async () => puts[0]!.answer(Response.json({ version: 4, changed: true })));
  act(() => void result.current.save());
  await waitFor(() => expect(puts).toHaveLength(2));
  expect(puts[1]).toMatchObject({ base: "4", value: whole });
});

test("what is typed on while it is saved is made on the version that the first came into force with", async () => {
  const { puts, state, wrapper } = await stub();
  const { result } = renderHook(() => useSection("name"), { wrapper });
  await waitFor(() => expect(result.current.version).toBe(3));
  act(() => void result.current.put("one"));
  await waitFor(() => expect(puts).toHaveLength(1));
  act(() => result.current.set("one and two"));
  state.version = 4;
  await act(async () => puts[0]!.answer(Response.json({ version: 4, changed: true })));
  expect(result.current.value).toBe("one and two");
  act(() => void result.current.save());
  await waitFor(() => expect(puts).toHaveLength(2));
  expect(puts[1]).toMatchObject({ base: "4", value: "one and two" });
});

test("what is saved while something else is on its way waits for that, and is made on it", async () => {
  const { puts, state, wrapper } = await stub();
  const { result } = renderHook(() => useSection("name"), { wrapper });
  await waitFor(() => expect(result.current.version).toBe(3));
  act(() => void result.current.put("one"));
  await waitFor(() => expect(puts).toHaveLength(1));
  await act(async () => void result.current.put("one and two"));
  expect(puts).toHaveLength(1);
  state.version = 4;
  await act(async () => puts[0]!.answer(Response.json({ version: 4, changed: true })));
  await waitFor(() => expect(puts).toHaveLength(2));
  expect(puts[1]).toMatchObject({ base: "4", value: "one and two" });
});

test("what came into force stands in the form until the settings it is in have come", async () => {
  const { puts, state, wrapper } = await stub();
  const { result } = renderHook(() => useSection("name"), { wrapper });
  await waitFor(() => expect(result.current.version).toBe(3));
  act(() => void result.current.put("the lamp house"));
  await waitFor(() => expect(puts).toHaveLength(1));
  const watch = renderHook(() => useSection("name"), { wrapper });
  await act(async () => puts[0]!.answer(Response.json({ version: 4, changed: true })));
  await waitFor(() => expect(result.current.saved).toBe(true));
  expect(result.current.value).toBe("the lamp house"); // though what was read last still is the version before
  await act(async () => void result.current.save());
  expect(puts).toHaveLength(1); // and it is not saved a second time
  state.settings = { ...state.settings, name: "the lamp house, and somebody else's pier" };
  state.version = 5;
  act(() => void watch.result.current.put("pier"));
  await waitFor(() => expect(puts).toHaveLength(2));
  await act(async () => puts[1]!.answer(Response.json({ version: 5, changed: true })));
  await waitFor(() => expect(result.current.value).toBe("the lamp house, and somebody else's pier"));
});

test("what cannot stand says where and why, and stays as it was typed", async () => {
  const { puts, wrapper } = await stub();
  const { result } = renderHook(() => useSection("pace"), { wrapper });
  await waitFor(() => expect(result.current.version).toBe(3));
  act(() => void result.current.put({ gapSeconds: -1 } as never));
  await waitFor(() => expect(puts).toHaveLength(1));
  await act(async () =>
    puts[0]!.answer(
      Response.json(
        { title: "This cannot come into force", status: 422, faults: [{ at: "pace.gapSeconds", what: "is out of range", remedy: "use 0 to 86400 seconds" }] },
        { status: 422 },
      ),
    ),
  );
  await waitFor(() => expect(result.current.fault).toEqual({ at: "pace.gapSeconds", words: "is out of range: use 0 to 86400 seconds" }));
  expect(result.current.value).toEqual({ gapSeconds: -1 });
});

test("what somebody else changed meanwhile is put to whoever is here, who keeps theirs or takes their own", async () => {
  const { puts, wrapper } = await stub();
  const { result } = renderHook(() => useSection("name"), { wrapper });
  await waitFor(() => expect(result.current.version).toBe(3));
  act(() => void result.current.put("mine"));
  await waitFor(() => expect(puts).toHaveLength(1));
  await act(async () => puts[0]!.answer(Response.json({ title: "Somebody else changed this", status: 409, version: 7, clashes: [{ at: "name" }] }, { status: 409 })));
  await waitFor(() => expect(clash.current()).toBeDefined());
  act(() => void clash.current()!.mine(7));
  await waitFor(() => expect(puts).toHaveLength(2));
  expect(puts[1]).toMatchObject({ base: "7", value: "mine" });
});
