import type { Delivery, HappeningRow, PlacesView, PlaceStanding, RelayView } from "../api/client";
import { ago, span } from "../kit/time";
import { titled } from "../kit/words";

/** How something goes to a place: at once, gathered into one, not for now, or not at all. */
export type Goes = "at once" | "gathered" | "paused" | "not";

export const goes = (r?: RelayView): Goes => (!r ? "not" : r.paused || !r.on ? "paused" : r.gather ? "gathered" : "at once");

/** named is a happening as the head of a row: what it is, without its article. */
export const named = (h: Pick<HappeningRow, "words">) => titled(h.words.replace(/^(an?|the) /, ""));

/** relayOf is what goes of a happening to a place; the one that is on before one that is not. */
export const relayOf = (v: PlacesView, when: string, place: string): RelayView | undefined => {
  const all = v.relays.filter((r) => r.when === when && r.place === place);
  return all.find((r) => goes(r) !== "paused") ?? all[0];
};

/** usual are the happenings whose rows stand there though nothing of them goes anywhere yet. */
const usual = new Set([
  "porch.stream.opened",
  "porch.stream.changed",
  "porch.raid.came",
  "porch.raid.went",
  "porch.person.followed",
  "porch.person.joined",
  "porch.support.subscribed",
  "porch.support.gifted",
  "porch.support.tipped",
  "porch.person.banned",
  "porch.person.timedout",
  "porch.chat.removed",
  "porch.stream.closed",
]);

/** never are whens that are no news: what is asked for answers whoever asks. */
const never = new Set(["command", "hand", "hello", "neighbour", "timer", "lull"]);

/** rows are the happenings that stand there, and how many more there are. */
export function rows(v: PlacesView, all: boolean): [HappeningRow[], number] {
  const set = new Set(v.relays.map((r) => r.when));
  const could = v.happenings.filter((h) => set.has(h.when) || !never.has(h.when));
  const shown = all ? could : could.filter((h) => set.has(h.when) || usual.has(h.when));
  return [shown, could.length - shown.length];
}

/** stands tells in a few words how a place stands. */
export const stands = (p: PlaceStanding): string =>
  p.health === "paused" ? "paused" : p.health === "unset" ? "has no address yet" : p.waiting ? `${p.waiting} ${p.waiting === 1 ? "waits" : "wait"}` : "nothing waits";

const day = 86_400_000; // ms

/** lately is when something last arrived there. */
export function lately(p: PlaceStanding, now: number, zone: string): string {
  if (!p.last) return "nothing yet";
  const past = now - Date.parse(p.last);
  return past < day ? `${span(Math.max(0, past))} ago` : ago(p.last, now, zone);
}

/** became is what became of a delivery, in words. */
export function became(d: Delivery): string {
  switch (d.state) {
    case "delivered":
      return d.attempts > 1 ? `arrived at the ${d.attempts}. try` : "arrived";
    case "failed":
      return `did not arrive: ${d.reason}`;
    case "unclear":
      return `may have arrived: ${d.reason}`;
    case "dropped":
      return d.reason || "dropped";
    case "trying":
      return "is being sent";
    default:
      return d.reason ? `waits: ${d.reason}` : "is on its way";
  }
}
