import { QueryClient } from "@tanstack/react-query";
import { afterEach, expect, test, vi } from "vitest";
import { clash } from "./clash";
import { carryOut } from "./deeds";
import { about } from "./queries";
import { heard, inPassing } from "./toast";

const said = () => inPassing.current().map((n) => n.text);
const answers = <T>(data: T) => Promise.resolve({ data });
const fails = (problem: object) => Promise.resolve({ error: { status: 400, ...problem } });

function house() {
  const client = new QueryClient();
  return { client, asked: vi.spyOn(client, "invalidateQueries").mockResolvedValue() };
}

afterEach(() => {
  inPassing.current().forEach((n) => heard(n.id));
  clash.set(undefined);
});

test("a deed that is done is said, and what it made stale is asked again", async () => {
  const { client, asked } = house();
  const got = await carryOut(client, answers({ name: "Quiet Moths" }), { stale: [about.book, about.history], say: (c) => `${c.name} is made.` });
  expect(got).toEqual({ name: "Quiet Moths" });
  expect(said()).toEqual(["Quiet Moths is made."]);
  expect(asked.mock.calls.map(([q]) => q!.queryKey)).toEqual([["book"], ["history"]]);
});

test("a deed answers only when what it made stale is there", async () => {
  const { client, asked } = house();
  let there = () => {};
  asked.mockReturnValue(new Promise<void>((ok) => (there = ok)));
  let answered = false;
  const deed = carryOut(client, answers({}), { stale: [about.book] }).then(() => (answered = true));
  await new Promise((r) => setTimeout(r));
  expect(answered).toBe(false);
  there();
  await deed;
  expect(answered).toBe(true);
});

test("what can be taken back offers it with what is said, once", async () => {
  const { client } = house();
  const undo = vi.fn();
  await carryOut(client, answers({ seq: 7 }), { say: "Saved: note", undo });
  expect(inPassing.current()[0]!.act!.label).toBe("Undo");
  inPassing.current()[0]!.act!.act();
  expect(undo).toHaveBeenCalledExactlyOnceWith({ seq: 7 });
});

test("a change that changed nothing offers no undo: the version it names is somebody's before", async () => {
  const { client } = house();
  await carryOut(client, answers({ version: 5, changed: false }), { say: "Put away", undo: vi.fn() });
  expect(inPassing.current()[0]!.act).toBeUndefined();
  await carryOut(client, answers({ version: 6, changed: true }), { say: "Put away", undo: vi.fn() });
  expect(inPassing.current()[1]!.act!.label).toBe("Undo");
});

test("what the house did not do is said with its reasons, and nothing is asked again", async () => {
  const { client, asked } = house();
  const then = vi.fn();
  const got = await carryOut(client, answers({ done: false, because: ["already said", "dropped"] }), { stale: [about.book], say: "Done.", then });
  expect(got).toBeUndefined();
  expect(said()).toEqual(["already said; dropped"]);
  expect(asked).not.toHaveBeenCalled();
  expect(then).not.toHaveBeenCalled();
});

test("a problem is said with its remedy, in passing or where the deed wants it", async () => {
  const { client, asked } = house();
  await carryOut(client, fails({ title: "The name is empty", remedy: "give one" }), { stale: [about.book], say: "Done." });
  expect(said()).toEqual(["The name is empty: give one"]);
  const fault = vi.fn();
  await carryOut(client, fails({ title: "The name is empty", remedy: "give one" }), { fault });
  expect(fault.mock.calls[0]![0]).toBe("The name is empty: give one");
  expect(said()).toHaveLength(1);
  expect(asked).not.toHaveBeenCalled();
});

test("a house that does not answer says so", async () => {
  const { client } = house();
  expect(await carryOut(client, Promise.reject(new TypeError("network")))).toBeUndefined();
  expect(said()).toEqual(["The house did not answer. Try again in a moment."]);
});

test("a clash with what somebody else changed is put to the member and not said in passing", async () => {
  const { client } = house();
  const mine = vi.fn();
  const theirs = vi.fn();
  await carryOut(client, fails({ title: "Changed meanwhile", version: 12, clashes: [{ at: "courtesies.greet.do" }] }), { clash: { mine, theirs } });
  expect(said()).toEqual([]);
  expect(clash.current()!.problem.clashes).toHaveLength(1);
  clash.current()!.mine(12);
  expect(mine).toHaveBeenCalledWith(12);
  expect(theirs).not.toHaveBeenCalled();
});

test("a problem that is no clash is said although both sides were given", async () => {
  const { client } = house();
  await carryOut(client, fails({ title: "No such courtesy" }), { clash: { mine: vi.fn(), theirs: vi.fn() } });
  expect(said()).toEqual(["No such courtesy"]);
  expect(clash.current()).toBeUndefined();
});
