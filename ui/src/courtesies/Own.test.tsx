// @vitest-environment jsdom
import { QueryClient, QueryClientProvider } from "@tanstack/react-query";
import { cleanup, fireEvent, render, screen, waitFor } from "@testing-library/react";
import { afterEach, beforeEach, expect, test, vi } from "vitest";
import type { Courtesies, OwnParts } from "../api/client";

// The house, as far as this form asks it.
const house = vi.hoisted(() => {
  const there = globalThis.Request;
  globalThis.Request = class extends there {
    constructor(to: RequestInfo | URL, init?: RequestInit) {
      super(typeof to === "string" ? new URL(to, "http://porch.example") : to, init);
    }
  };
  const house = { kept: [] as { on: string | null; own: unknown }[], refuses: undefined as object | undefined };
  globalThis.fetch = async (to) => {
    const req = to as Request;
    if (req.method === "GET") return Response.json({ events: [] });
    if (house.refuses) return Response.json(house.refuses, { status: 400 });
    house.kept.push({ on: req.headers.get("X-Porch-Base"), own: await req.json() });
    return Response.json({ version: 5 });
  };
  return house;
});

import { Own } from "./Own";

const own: OwnParts = {
  fillIns: [{ name: "luck", kind: "dice", from: 1, to: 6 }],
  emotes: [{ word: "tidepoolWave", platforms: ["quayside"] }],
  events: [{ event: "tide.turned", fields: { height: "3.2" } }],
};
const all = { version: 4, own, platforms: ["quayside", "fernlight"] } as Courtesies;

beforeEach(() => {
  house.kept = [];
  house.refuses = undefined;
  render(
    <QueryClientProvider client={new QueryClient({ defaultOptions: { queries: { retry: false } } })}>
      <Own all={all} />
    </QueryClientProvider>,
  );
});
afterEach(cleanup);

const write = (label: string, value: string) => fireEvent.input(screen.getByLabelText(label), { target: { value } });
const kept = () => waitFor(() => expect(house.kept.length).toBeGreaterThan(0), { timeout: 3000 });

test("what is written comes into force by itself, once it is quiet, on the version it was made of", async () => {
  write("Name of fill-in 1", "fort");
  write("Name of fill-in 1", "fortune");
  await kept();
  expect(house.kept).toEqual([{ on: "4", own: { ...own, fillIns: [{ name: "fortune", kind: "dice", from: 1, to: 6 }] } }]);
});

test("a fill-in that becomes another kind begins anew and keeps its name", async () => {
  fireEvent.change(screen.getByLabelText("Kind of fill-in 1"), { target: { value: "clock" } });
  await kept();
  expect((house.kept[0] as { own: OwnParts }).own.fillIns).toEqual([{ name: "luck", kind: "clock", zone: "Europe/Lisbon" }]);
});

test("what is taken out goes, and what is new has a name that is free", async () => {
  fireEvent.click(screen.getByRole("button", { name: "Take out: emote tidepoolWave" }));
  fireEvent.click(screen.getByRole("button", { name: "A new event" }));
  await kept();
  const { emotes, events } = (house.kept[0] as { own: OwnParts }).own;
  expect(emotes).toEqual([]);
  expect(events.map((e) => e.event)).toEqual(["tide.turned", "tide.turned2"]);
});

test("what the house finds wrong stands at the head, with its remedy, and is not in force", async () => {
  house.refuses = { title: "Not taken", status: 400, faults: [{ at: "fillIns.0", what: "{name} is there already", remedy: "call it something else" }] };
  write("Name of fill-in 1", "name");
  await waitFor(() => expect(screen.getByRole("status").textContent).toBe("Not in force yet: fillIns.0 {name} is there already; call it something else"), { timeout: 3000 });
  expect(house.kept).toEqual([]);
});
