import { expect, test } from "vitest";
import { allPegs, also, chosenOf, hung, moved, without } from "./peg";

const now = {
  hush: false,
  flood: false,
  on: true,
  ready: ["the print"],
  hands: [
    { id: "tides", label: "Tell the tides", meant: false },
    { id: "wave", label: "Wave to", meant: true },
  ],
};
const ids = (chosen: string[], at = now) => hung(allPegs(at), chosen).map((p) => p.id);

test("who never chose has hush under the thumb and a new stream farthest from it", () => {
  const fresh = ids([]);
  expect(fresh.at(-1)).toBe("hush");
  expect(fresh[0]).toBe("stream");
  expect(fresh).toContain("courtesy:tides");
  expect(fresh).not.toContain("courtesy:wave"); // it is about somebody, and a peg asks for nobody
});

test("what was chosen hangs in its order, and what is no more is left out", () => {
  expect(ids(["raider", "courtesy:gone", "courtesy:tides", "hush"])).toEqual(["raider", "courtesy:tides", "hush"]);
});

test("every peg has its own name and says what it did", () => {
  const all = allPegs(now);
  expect(new Set(all.map((p) => p.id)).size).toBe(all.length);
  expect(all.filter((p) => !p.words || !p.done)).toEqual([]);
});

test("a peg says what its press would do now", () => {
  const words = (at: typeof now) => allPegs(at).find((p) => p.id === "hush")!.words;
  expect([words(now), words({ ...now, hush: true })]).toEqual(["Hush", "Lift hush"]);
});

test("a change of what hangs leaves what is not there just now where it was", () => {
  const chosen = ["raider", "draw:gone", "courtesy:tides", "hush"];
  expect(without("courtesy:tides")(chosen)).toEqual(["raider", "draw:gone", "hush"]);
  expect(also("stream")(chosen)).toEqual([...chosen, "stream"]);
  expect(moved("hush", "raider")(chosen)).toEqual(["hush", "raider", "draw:gone", "courtesy:tides"]);
});

test("who never chose begins from the fresh ones, and never takes the last one down", () => {
  expect(chosenOf(allPegs(now), [])).toEqual(ids([]));
  expect(chosenOf(allPegs(now), ["hush"])).toEqual(["hush"]);
  expect(without("hush")(["hush"])).toEqual(["hush"]);
});

test("a slip changes nothing: hung twice it hangs once, taken down twice it is down, moved when it is gone it stays gone", () => {
  expect(also("hush")(["raider", "hush"])).toEqual(["raider", "hush"]);
  expect(without("stream")(["raider", "hush"])).toEqual(["raider", "hush"]);
  expect(moved("stream", "hush")(["raider", "hush"])).toEqual(["raider", "hush"]);
});
