import { hmac } from "@noble/hashes/hmac.js";
import { sha256 } from "@noble/hashes/sha2.js";
import { bytesToHex, hexToBytes, utf8ToBytes } from "@noble/hashes/utils.js";

// A draw held against what was published of it, as docs/draws.md says. No browser's own SHA-256 is used: those answer over
// https only.

/** A draw as /draws/ID/list tells it. */
export type Published = {
  id: string;
  number: number;
  channel: string;
  way: "word" | "lately" | "answer" | "number";
  prizes: string[];
  who?: string;
  word?: string;
  minutes?: number;
  ask?: string;
  from?: number;
  to?: number;
  exact?: boolean;
  state: "sealing" | "open" | "closed" | "drawing" | "over" | "cancelled";
  why?: string;
  opened?: string;
  ended?: string;
  commit?: string;
  kept?: string;
  secret?: string;
  keeps?: string[];
  answer?: number;
  digest?: string;
  entries: { number: number; name?: string; account?: string; mark: string; at: string; guess?: number; in: boolean; void?: string }[];
  picks: { n: number; left?: number; prize: number; number: number; name?: string; mark: string; state: "pending" | "claimed" | "passed"; why?: string }[];
  unwon?: number[];
};

/** Finding is one thing that was checked, and whether it is right. */
export type Finding = { right: boolean; says: string };

const joined = (parts: Uint8Array[]) => {
  const out = new Uint8Array(parts.reduce((n, p) => n + p.length, 0));
  let at = 0;
  for (const p of parts) {
    out.set(p, at);
    at += p.length;
  }
  return out;
};
const big = (n: number) => new Uint8Array([n >>> 24, (n >>> 16) & 255, (n >>> 8) & 255, n & 255]);
const first = (mac: Uint8Array) => new DataView(mac.buffer, mac.byteOffset, 8).getBigUint64(0);

/** reduced is a number below n, every one as likely. */
function reduced(of: (attempt: number) => bigint, n: bigint): bigint {
  const limit = ((2n ** 64n - 1n) / n) * n;
  for (let attempt = 0; ; attempt++) {
    const x = of(attempt);
    if (x < limit) return x % n;
  }
}

export const commit = (secret: string) => bytesToHex(sha256(hexToBytes(secret)));
export const mark = (draw: string, account: string) => bytesToHex(sha256(utf8ToBytes(`${draw}\n${account}`)));
export const digest = (marks: string[]) => bytesToHex(sha256(utf8ToBytes([...new Set(marks)].sort().join("\n") + "\n")));
export const kept = (secret: string, answers: string[]) => bytesToHex(hmac(sha256, hexToBytes(secret), utf8ToBytes(answers.map((a) => `${a}\n`).join(""))));
export const pick = (secret: string, of: string, which: number, n: number) =>
  Number(reduced((attempt) => first(hmac(sha256, hexToBytes(secret), joined([hexToBytes(of), big(which), big(attempt)]))), BigInt(n)));
export const chosen = (secret: string, from: number, to: number) =>
  Number(BigInt(from) + reduced((attempt) => first(hmac(sha256, hexToBytes(secret), joined([utf8ToBytes("number"), big(attempt)]))), BigInt(to) - BigInt(from) + 1n));

/** check holds a draw against its secret and its list; nothing can be checked before the secret is published. */
export function check(d: Published): Finding[] {
  const { secret } = d;
  if (!secret || !d.commit || !d.digest) return [];
  const out: Finding[] = [];
  const found = (right: boolean, yes: string, no: string) => out.push({ right, says: right ? yes : no });
  found(
    commit(secret) === d.commit,
    "The secret is the one that was committed to before anybody entered.",
    "The secret is not the one that was committed to before anybody entered.",
  );
  if (d.keeps?.length) found(kept(secret, d.keeps) === d.kept, "What had to be guessed was fixed before anybody guessed.", "What had to be guessed is not what was fixed before.");
  if (d.way === "number" && d.answer !== undefined) {
    const number = d.keeps?.length ? Number(d.keeps[0]) : chosen(secret, d.from ?? 0, d.to ?? 0);
    found(number === d.answer, `The number is ${d.answer}.`, `The number is ${number}, and not ${d.answer}.`);
  }
  const odd = d.entries.find((e) => e.account && mark(d.id, e.account) !== e.mark);
  found(!odd, "Each entry’s mark is that of its account.", `Entry ${odd?.number} does not have the mark of its account.`);
  const marks = [...new Set(d.entries.filter((e) => e.in).map((e) => e.mark))].sort();
  found(digest(marks) === d.digest, `The list is the one that was closed: ${marks.length} in it.`, "The list is not the one that was closed.");
  if (d.way === "word" || d.way === "lately") {
    const left = [...marks];
    const wrong = d.picks.findIndex((p, n) => {
      const at = left.length ? pick(secret, d.digest!, n, left.length) : -1;
      const right = p.n === n && left[at] === p.mark;
      left.splice(left.indexOf(p.mark), left.includes(p.mark) ? 1 : 0);
      return !right;
    });
    if (d.picks.length)
      found(
        wrong < 0,
        `${d.picks.length === 1 ? "The pick follows" : `All ${d.picks.length} picks follow`} from secret and list.`,
        `Pick ${wrong + 1} does not follow from secret and list.`,
      );
  } else if (d.way === "number" && d.picks.length && d.answer !== undefined) {
    const best = d.entries.filter((e) => e.in && e.guess !== undefined).sort((a, b) => Math.abs(a.guess! - d.answer!) - Math.abs(b.guess! - d.answer!) || a.number - b.number)[0];
    if (best) found(best.number === d.picks[0]!.number, "The first pick is the nearest guess, of two as near the earlier.", "The first pick is not the nearest guess.");
  }
  return out;
}
