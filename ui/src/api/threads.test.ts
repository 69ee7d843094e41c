import { expect, test, vi } from "vitest";

const house = vi.hoisted(() => {
  const asked: string[][] = [];
  globalThis.fetch = async (to) => {
    const accounts = new URL((to as Request).url).searchParams.getAll("account");
    asked.push(accounts);
    return Response.json(accounts.filter((a) => a !== "quayside:2").map((account) => ({ account, text: `of ${account}`, at: "2031-05-14T19:00:00Z" })));
  };
  const there = globalThis.Request;
  globalThis.Request = class extends there {
    constructor(to: RequestInfo | URL, init?: RequestInit) {
      super(typeof to === "string" ? new URL(to, "http://porch.example") : to, init);
    }
  };
  return { asked };
});

import { threadOf } from "./threads";

test("what many who arrive at once last said is asked for together, and each gets their own", async () => {
  const all = Array.from({ length: 130 }, (_, i) => `quayside:${i}`);
  const got = await Promise.all([...all, "quayside:7"].map(threadOf));
  expect(house.asked.map((a) => a.length)).toEqual([60, 60, 11]);
  expect(got[5]?.text).toBe("of quayside:5");
  expect(got[2]).toBeNull();
  expect(got[130]?.text).toBe("of quayside:7");
});
