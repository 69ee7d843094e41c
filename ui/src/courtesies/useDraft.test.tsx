// @vitest-environment jsdom
import { QueryClient, QueryClientProvider } from "@tanstack/react-query";
import { act, renderHook, waitFor } from "@testing-library/react";
import type { ReactNode } from "react";
import { beforeEach, expect, test, vi } from "vitest";
import type { CourtesyView, Draft } from "../api/client";

// The house, as far as a draft asks it: it keeps what is sent, and brings into force when it is let.
const house = vi.hoisted(() => {
  const there = globalThis.Request;
  globalThis.Request = class extends there {
    constructor(to: RequestInfo | URL, init?: RequestInit) {
      super(typeof to === "string" ? new URL(to, "http://porch.example") : to, init);
    }
  };
  const house = {
    draft: undefined as Draft | undefined,
    bases: [] as string[],
    inForce: [] as string[],
    let: (): void => undefined,
    waits: Promise.resolve(),
    keeps: Promise.resolve(),
  };
  globalThis.fetch = async (to) => {
    const req = to as Request;
    if (req.method === "PUT") {
      house.draft = await req.json();
      house.bases.push(req.headers.get("X-Porch-Base")!);
      await house.keeps;
      return Response.json({ valid: !house.draft!.outputs[0]!.alternatives[0]!.includes("{nobody"), changed: true, faults: [] });
    }
    const words = house.draft!.outputs[0]!.alternatives[0]!;
    await house.waits;
    house.inForce.push(words);
    return Response.json({ version: 5, changed: true });
  };
  return house;
});

import { useDraft } from "./useDraft";

const courtesy = { id: "greet-newcomer", rule: {}, outputs: [{ id: "chat", kind: "say", alternatives: ["Hello {name}"] }] } as unknown as CourtesyView;
const client = new QueryClient();
const wrapper = ({ children }: { children: ReactNode }) => <QueryClientProvider client={client}>{children}</QueryClientProvider>;
const start = () => renderHook(() => useDraft(courtesy, 4), { wrapper }).result;
const type = (r: ReturnType<typeof start>, words: string) => act(() => r.current.change("chat", (w) => ({ ...w, alternatives: [words] })));

beforeEach(() => {
  house.draft = undefined;
  house.inForce = [];
  house.bases = [];
  house.waits = Promise.resolve();
  house.keeps = Promise.resolve();
});

test("what is typed is kept as a draft, and comes into force when the field is left", async () => {
  const r = start();
  type(r, "Ahoy {name}");
  expect(r.current.status).toBe("typing");
  await waitFor(() => expect(r.current.status).toBe("draft"));
  expect(house.inForce).toEqual([]);
  await act(() => r.current.enact());
  expect(r.current.status).toBe("in force");
  expect(house.inForce).toEqual(["Ahoy {name}"]);
});

test("leaving the field at once keeps the draft first", async () => {
  const r = start();
  type(r, "Ahoy {name}");
  await act(() => r.current.enact());
  expect(house.inForce).toEqual(["Ahoy {name}"]);
});

test("a draft with a fault is kept and stays out of force", async () => {
  const r = start();
  type(r, "Ahoy {nobody}");
  await act(() => r.current.enact());
  expect(r.current.status).toBe("fault");
  expect(house.inForce).toEqual([]);
});

test("what is typed while a draft comes into force is a draft of its own, and comes into force after it", async () => {
  const r = start();
  type(r, "Ahoy {name}");
  house.waits = new Promise((ok) => (house.let = ok));
  let leaving = Promise.resolve();
  act(() => void (leaving = r.current.enact()));
  await waitFor(() => expect(house.draft).toBeDefined());
  type(r, "Ahoy there, {name}");
  house.let();
  await act(() => leaving);
  expect(r.current.status).not.toBe("in force");
  await act(() => r.current.enact());
  expect(house.inForce).toEqual(["Ahoy {name}", "Ahoy there, {name}"]);
  expect(r.current.status).toBe("in force");
});

test("what is kept while the words before it come into force is kept as made on those, and is no clash with them", async () => {
  const r = start();
  type(r, "Ahoy {name}");
  house.waits = new Promise((ok) => (house.let = ok));
  let leaving = Promise.resolve();
  act(() => void (leaving = r.current.enact()));
  await waitFor(() => expect(house.bases).toEqual(["4"]));
  type(r, "Ahoy there, {name}");
  let again = Promise.resolve();
  act(() => void (again = r.current.enact())); // it is to be kept at once, and has to wait its turn
  house.let();
  await act(() => Promise.all([leaving, again]));
  expect(house.bases).toEqual(["4", "5"]);
  expect(house.inForce).toEqual(["Ahoy {name}", "Ahoy there, {name}"]);
  expect(r.current.status).toBe("in force");
});

test("of a draft and the words that come into force, whichever was first goes first, and neither waits for the other", async () => {
  const r = start();
  type(r, "Ahoy {name}");
  await waitFor(() => expect(r.current.status).toBe("draft"));
  house.keeps = new Promise((ok) => (house.let = ok));
  type(r, "Ahoy there, {name}");
  let leaving = Promise.resolve();
  act(() => void (leaving = r.current.enact()));
  await waitFor(() => expect(house.bases).toHaveLength(2));
  type(r, "Ahoy out there, {name}");
  let again = Promise.resolve();
  act(() => void (again = r.current.enact())); // its draft waits behind the one that is on its way, and the first has yet to come into force
  house.let();
  await act(() => Promise.all([leaving, again]));
  await waitFor(() => expect(house.inForce.at(-1)).toBe("Ahoy out there, {name}"));
  expect(r.current.status).toBe("in force");
});

test("what is typed stays while it is being kept, though the courtesy changes meanwhile", async () => {
  const { result: r, rerender } = renderHook(({ c }) => useDraft(c, 4), { wrapper, initialProps: { c: courtesy } });
  type(r, "Ahoy {name}");
  house.keeps = new Promise((ok) => (house.let = ok));
  let leaving = Promise.resolve();
  act(() => void (leaving = r.current.enact()));
  await waitFor(() => expect(house.draft).toBeDefined());
  rerender({ c: { ...courtesy, outputs: [...courtesy.outputs, { id: "card", kind: "card", alternatives: ["{name}"] }] } as unknown as CourtesyView });
  expect(r.current.draft.outputs.map((o) => o.alternatives[0])).toEqual(["Ahoy {name}", "{name}"]);
  house.let();
  await act(() => leaving);
  expect(house.inForce).toEqual(["Ahoy {name}"]);
  expect(r.current.status).toBe("in force");
});
