import { beforeEach, expect, test, vi } from "vitest";

// A house that cannot write anything down for so many requests.
const house = vi.hoisted(() => {
  const there = globalThis.Request;
  globalThis.Request = class extends there {
    constructor(to: RequestInfo | URL, init?: RequestInit) {
      super(typeof to === "string" ? new URL(to, "http://porch.example") : to, init);
    }
  };
  const house = { asleep: 0, after: "0" as string | undefined, heard: [] as string[] };
  globalThis.fetch = async (to) => {
    const r = to as Request;
    house.heard.push(`${r.method} ${new URL(r.url).pathname} ${await r.text()}`);
    if (house.asleep-- > 0) return Response.json({ title: "The database is gone" }, { status: 503, headers: house.after === undefined ? {} : { "Retry-After": house.after } });
    return Response.json({ version: 4, changed: true });
  };
  return house;
});

import { api } from "./client";

beforeEach(() => Object.assign(house, { asleep: 0, after: "0", heard: [] }));

const put = (value: string) => api.PUT("/api/house/sections/{section}", { params: { path: { section: "name" } }, body: { value } });
const names = () => house.heard.map((h) => (JSON.parse(h.split(" ").slice(2).join(" ")) as { value: string }).value);

test("what is saved while the house can write nothing down is kept once it can, and before what is saved after it", async () => {
  house.asleep = 3;
  const [first, second] = await Promise.all([put("the lamp house"), put("the kelp house")]);
  expect([first.data?.version, second.data?.version]).toEqual([4, 4]);
  expect(names()).toEqual(["the lamp house", "the lamp house", "the lamp house", "the lamp house", "the kelp house"]);
});

test("a house that stays away is said to be", async () => {
  Object.assign(house, { asleep: 99, after: "60" });
  expect((await put("the lamp house")).error).toMatchObject({ title: "The database is gone" });
  expect(house.heard).toHaveLength(1);
});

test("what a house does not ask to be sent again, and what would make one more, is sent once", async () => {
  Object.assign(house, { asleep: 1, after: undefined });
  expect((await put("the lamp house")).error).toBeDefined();
  Object.assign(house, { asleep: 1, after: "0", heard: [] });
  expect((await api.POST("/api/courtesies", { body: { when: "arrival" } })).error).toBeDefined();
  expect(house.heard).toHaveLength(1);
});
