// Pointing at fields of somebody else's message: pointers as RFC 6901 has them, and the words for what is pointed at.
import type { Reading } from "../api/client";

export type Json = null | boolean | number | string | Json[] | { [k: string]: Json };

/** step goes one further: into a key of an object or a place of a list. */
export const step = (pointer: string, key: string | number) => `${pointer}/${String(key).replaceAll("~", "~0").replaceAll("/", "~1")}`;

const steps = (pointer: string) =>
  pointer
    .split("/")
    .slice(1)
    .map((s) => s.replaceAll("~1", "/").replaceAll("~0", "~"));

/** valueAt is what a pointer leads to; undefined for nothing. */
export const valueAt = (message: Json, pointer: string): Json | undefined =>
  steps(pointer).reduce<Json | undefined>((at, key) => {
    if (Array.isArray(at)) return /^(0|[1-9]\d*)$/.test(key) ? at[Number(key)] : undefined;
    return at && typeof at === "object" && Object.hasOwn(at, key) ? at[key] : undefined;
  }, message);

/** pathWords says where a pointer leads: "from › called". */
export const pathWords = (pointer: string) => (pointer === "" ? "the whole" : steps(pointer).join(" › "));

/** plainly is a value as words; undefined for what holds others. */
export const plainly = (v: Json | undefined): string | undefined => (v === null || v === undefined || typeof v === "object" ? undefined : String(v));

const words: Record<string, string> = {
  "person.id": "their id",
  "person.login": "their login",
  "person.name": "their name",
  amount: "the amount",
  currency: "the currency",
  message: "what they wrote",
  months: "the months",
  count: "how many",
  viewers: "how many viewers",
  quantity: "how many pieces",
  cost: "what it cost",
  tier: "the tier",
  item: "the item",
  reward: "the reward",
  campaign: "the campaign",
  name: "its name",
  text: "the text",
  place: "the place",
  url: "the link",
  streak: "how many in a row",
  time: "when it happened",
};

/** fieldWords says what a field of a happening is. */
export const fieldWords = (name: string) => words[name] ?? (name.startsWith("fields.") ? `its field ${name.slice(7)}` : name);

const hows: Record<string, string> = { is: "is", "is not": "is not", "is there": "is there", "is not there": "is not there", holds: "holds" };

/** ifWords says in a sentence's part when a reading holds. */
export const ifWords = (r: Reading) =>
  (r.if ?? []).map((c) => `${pathWords(c.at)} ${hows[c.how] ?? c.how}${c.how === "is" || c.how === "is not" || c.how === "holds" ? ` “${c.is ?? ""}”` : ""}`).join(" and ") ||
  "whatever comes";

/** gist shows a message in one line. */
export const gist = (body: string) => {
  const inner = body.replace(/^\{|\}$/g, "").replace(/"/g, "");
  return inner.length > 110 ? `${inner.slice(0, 108)}…` : inner;
};
