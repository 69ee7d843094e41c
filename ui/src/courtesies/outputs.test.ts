import { expect, test } from "vitest";
import type { Courtesies, RuleOutput } from "../api/client";
import { conditions, filled } from "../whom/conditions";
import { complete, manner, sentenceOf, starts } from "./outputs";
import { titled } from "../kit/words";

const all = {
  platforms: ["quayside", "fernlight"],
  places: [{ name: "news", title: "News at The Boathouse" }],
  screens: [],
  voices: [],
  fittings: [{ name: "bench", title: "the bench lamp", kind: "lamp", scenes: [], voices: [], cannot: {} }],
  acts: [
    { act: "clip", cannot: { fernlight: "Fernlight makes no clips" } },
    { act: "delete line", cannot: {} },
    { act: "give VIP", ofPerson: true, cannot: { quayside: "has no VIPs", fernlight: "has no VIPs" } },
    { act: "slow chat", cannot: {} },
  ],
  courtesies: [{ id: "greet", sentence: [{ text: "Greet " }, { text: "anyone", strong: true }] }],
} as unknown as Courtesies;

const choice = (when: string, value: string) => starts(all, when).find((c) => c.value === value)!;

test("what cannot be done is offered with the reason, and cannot be chosen", () => {
  expect(choice("arrival", "film").off).toBe("there is no overlay and no player");
  expect(choice("arrival", "lamp").off).toBeUndefined();
  expect(choice("porch.stream.opened", "shout-out").off).toBe("there is nobody to shout out");
  expect(choice("porch.raid.came", "act:delete line").off).toBe("no line of chat comes with this");
  expect(choice("arrival", "act:delete line").off).toBeUndefined();
  expect(choice("arrival", "act:give VIP").off).toBe("no platform can: has no VIPs");
});

test("an action that one platform cannot do begins with those that can", () => {
  expect(choice("arrival", "act:clip").hint).toBe("Quayside");
  expect(choice("arrival", "act:clip").make().on).toEqual(["quayside"]);
  expect(choice("arrival", "act:slow chat").make()).toEqual({ kind: "platform", act: "slow chat", seconds: 60, on: undefined });
});

test("every output that can be added is complete, or wants what only the streamer can give", () => {
  for (const c of starts(all, "arrival").filter((x) => !x.off)) expect(complete(c.make()), c.value).toBe(c.value !== "raise");
  expect(complete({ kind: "sound", media: "" } as RuleOutput)).toBe(false);
  expect(complete({ kind: "raise", event: "  " } as RuleOutput)).toBe(false);
});

test("how an output is done is said in a few words", () => {
  const says = (o: Partial<RuleOutput>, n = 0) => manner(o as RuleOutput, all, n);
  expect(says({ kind: "say" }, 3)).toBe("as the house · where it happens · 3 alternatives");
  expect(says({ kind: "say", as: "streamer", on: ["quayside", "fernlight"], delaySeconds: 4 }, 1)).toBe("as the streamer · on Quayside and Fernlight · after 4 s");
  expect(says({ kind: "card", media: "dot.png", seconds: 8, only: { trusted: true } })).toBe("dot.png · for 8 s · not always");
  expect(says({ kind: "film", media: "pool.webm", loud: 30 })).toBe("pool.webm · loudness 30");
  expect(says({ kind: "shout-out" })).toBe("");
});

test("a condition just begun waits for its value, however deep it stands", () => {
  for (const c of conditions) {
    const begun = c.start(["lantern-row"], "2031-05-14");
    const waits = ["account", "tag", "platform"].includes(c.key);
    expect(filled(begun), c.key).toBe(!waits);
    expect(filled({ any: [{ trusted: true }, begun] }), `${c.key} within`).toBe(!waits);
  }
  expect(filled({ not: [{}] })).toBe(false);
  expect(filled({ crews: { of: [] } })).toBe(false);
});

test("a courtesy is called by what it does", () => {
  expect(sentenceOf(all, "greet")).toBe("Greet anyone");
  expect(sentenceOf(all, "gone-since")).toBe("gone-since");
  expect(titled("quayside")).toBe("Quayside");
});
