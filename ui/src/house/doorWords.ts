import type { Door, Settings } from "../api/client";
import { span } from "../kit/time";
import { titled } from "../kit/words";

export type Set = NonNullable<Settings["doors"]>[number];

/** kindOf says what a door is, in words. */
export const kindOf = (d: Set) =>
  d.kind === "irc"
    ? d.as
      ? `speaks as you on ${titled(d.platform)}`
      : `${titled(d.platform)}'s chat`
    : d.kind === "inbox"
      ? `happenings of ${titled(d.platform)}`
      : d.kind === "hook"
        ? "another service, which sends to the house"
        : "another service, which the house listens to";

/** isService is a door of another service, whose messages are understood by pointing. */
export const isService = (d: Set) => d.kind === "hook" || d.kind === "listen";

/** stateOf says how a door stands: whether it is well, and in words. */
export const stateOf = (d: Door | undefined, now: number): [well: boolean, words: string] => {
  if (!d) return [false, "opening"];
  if (d.state === "paused") return [false, "paused"];
  if (d.state !== "open") return [false, d.reason ?? d.state];
  if (d.kind === "irc" && !d.maySpeak) return [false, d.reason || "the house may not speak there"];
  if (d.kind !== "irc" && d.reason) return [false, d.reason];
  return [true, d.lastIn ? `last heard ${span(now - Date.parse(d.lastIn))} ago` : "nothing heard yet"];
};
