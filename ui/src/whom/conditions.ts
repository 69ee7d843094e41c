import type { Who } from "../api/client";

/** The conditions a who can have, in the order in which they bind: what they are called, and what they begin as, with the crews there are and the channel's day. */
export const conditions: { key: keyof Who; label: string; start: (crews: string[], today: string) => Partial<Who> }[] = [
  { key: "nobody", label: "nobody", start: () => ({ nobody: true }) },
  { key: "account", label: "one person", start: () => ({ account: "" }) },
  { key: "crews", label: "crews", start: (crews) => ({ crews: { of: crews.slice(0, 1), in: "all" } }) },
  { key: "mark", label: "raider or fellow streamer", start: () => ({ mark: "fellow streamer" }) },
  { key: "role", label: "role", start: () => ({ role: "moderator" }) },
  { key: "tag", label: "tag", start: () => ({ tag: "" }) },
  { key: "trusted", label: "trusted", start: () => ({ trusted: true }) },
  { key: "date", label: "a day of theirs", start: () => ({ date: { when: "today" } }) },
  { key: "standing", label: "standing", start: () => ({ standing: "regular" }) },
  { key: "platform", label: "platform", start: () => ({ platform: "" }) },
  { key: "attended", label: "streams attended", start: () => ({ attended: 10 }) },
  { key: "days", label: "weekdays", start: () => ({ days: ["Thursday"] }) },
  { key: "hours", label: "hours of the day", start: () => ({ hours: { from: "18:00", to: "20:00" } }) },
  { key: "since", label: "from a day on", start: (_, today) => ({ since: today }) },
  { key: "until", label: "until a day", start: (_, today) => ({ until: today }) },
];

export const weekdays = ["Monday", "Tuesday", "Wednesday", "Thursday", "Friday", "Saturday", "Sunday"];
/** Kinds of days, and when one is asked for, as they stand in a sentence. */
export const dayKinds: [string, string][] = [
  ["", "any day of theirs"],
  ["birthday", "their birthday"],
  ["follow", "the day they followed"],
  ["first visit", "the day they first came"],
  ["round number", "a round number of streams"],
  ["channel", "the day the channel began"],
];
export const dayWhens: [string, string][] = [
  ["today", "today"],
  ["belated", "missed lately"],
  ["within", "within days"],
];
export const standings = ["newcomer", "returning", "regular", "long away"];
export const roles = ["co-host", "moderator", "vip", "subscriber", "follower"];
export const marks = ["fellow streamer", "raider"];

/** narrowsPeople tells whether a who leaves anybody out, and not evenings alone. */
export function narrowsPeople(w: Who): boolean {
  const { nobody, account, crews, mark, role, tag, trusted, standing, attended, date, all, any, not } = w;
  return (
    Boolean(nobody || account || crews || mark || role || tag || trusted || standing || attended || date) || [...(all ?? []), ...(any ?? []), ...(not ?? [])].some(narrowsPeople)
  );
}

/** filled tells whether a who can come into force as it stands; a condition just begun may wait for its value. */
export function filled(w: Who): boolean {
  return (
    (w.account === undefined || w.account !== "") &&
    (w.tag === undefined || w.tag.trim() !== "") &&
    (w.platform === undefined || w.platform !== "") &&
    (w.crews === undefined || w.crews.of.length > 0) &&
    (w.days === undefined || w.days.length > 0) &&
    [...(w.any ?? []), ...(w.not ?? []), ...(w.all ?? [])].every((x) => filled(x) && Object.keys(x).length > 0)
  );
}
