import { readFileSync } from "node:fs";
import { join } from "node:path";
import { expect, test } from "vitest";
import { check, chosen, commit, digest, kept, mark, pick, type Published } from "./check";

const v = JSON.parse(readFileSync(join(import.meta.dirname, "../../../docs/contract/draw-vectors.json"), "utf8")) as {
  secret: string;
  commit: string;
  draw: string;
  digest: string;
  marks: { account: string; mark: string }[];
  picks: { pick: number; of: number; at: number }[];
  numbers: { from: number; to: number; number: number }[];
  kept: { answers: string[]; kept: string }[];
};

test("the vectors of the docs hold in the browser's own check", () => {
  expect(commit(v.secret)).toBe(v.commit);
  for (const m of v.marks) expect(mark(v.draw, m.account)).toBe(m.mark);
  expect(digest(v.marks.map((m) => m.mark))).toBe(v.digest);
  for (const p of v.picks) expect(pick(v.secret, v.digest, p.pick, p.of)).toBe(p.at);
  for (const n of v.numbers) expect(chosen(v.secret, n.from, n.to)).toBe(n.number);
  for (const k of v.kept) expect(kept(v.secret, k.answers)).toBe(k.kept);
});

/** A draw as it would be published: of five, one was drawn. */
function drawn(): Published {
  const marks = v.marks.map((m) => m.mark).sort();
  const at = pick(v.secret, v.digest, 0, marks.length);
  return {
    id: v.draw,
    number: 1,
    channel: "tidepool_hours",
    way: "word",
    prizes: ["a print"],
    state: "over",
    commit: v.commit,
    secret: v.secret,
    digest: v.digest,
    entries: v.marks.map((m, i) => ({ number: i + 1, name: m.account, account: m.account, mark: m.mark, at: "", in: true })),
    picks: [{ n: 0, prize: 0, number: v.marks.findIndex((m) => m.mark === marks[at]) + 1, mark: marks[at]!, state: "claimed" }],
  };
}

test("a draw that is right is found right", () => {
  const found = check(drawn());
  expect(found.length).toBe(4);
  expect(found.filter((f) => !f.right)).toEqual([]);
});

test.each<[string, (d: Published) => void, RegExp]>([
  ["an entry left out", (d) => d.entries.splice(1, 1), /list is not the one/],
  ["an entry put in", (d) => d.entries.push({ number: 9, account: "quayside:9", mark: mark(d.id, "quayside:9"), at: "", in: true }), /list is not the one/],
  ["another's account", (d) => (d.entries[0]!.account = "quayside:9"), /Entry 1/],
  ["another secret", (d) => (d.secret = "00".repeat(32)), /secret is not the one/],
  ["another winner", (d) => (d.picks[0]!.mark = d.entries.find((e) => e.mark !== d.picks[0]!.mark)!.mark), /Pick 1 does not follow/],
])("%s is found out", (_, tamper, says) => {
  const d = drawn();
  tamper(d);
  expect(
    check(d)
      .filter((f) => !f.right)
      .map((f) => f.says)
      .join(" "),
  ).toMatch(says);
});

test("before the secret is published there is nothing to check", () => {
  expect(check({ ...drawn(), secret: undefined })).toEqual([]);
});
