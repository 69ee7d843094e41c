import type { Filter } from "../api/queries";
import { dayIn } from "../kit/time";
import { titled } from "../kit/words";

/** What the table is narrowed to stands in the address of the view. */
export type { Filter };
export type Sort = "name" | "seen" | "attended" | "follow" | "lines" | "support";

const texts = ["text", "standing", "mark", "crew", "role", "platform", "tag", "since", "until"] as const;
const flags = ["trusted", "leaveBe", "birthday", "unthanked", "lost", "gained"] as const;
const numbers = ["from", "to", "raid", "stream"] as const;
export const filterKeys: string[] = [...texts, ...flags, ...numbers];

export function readFilter(p: URLSearchParams): Filter {
  const f: Record<string, unknown> = {};
  for (const k of texts) if (p.get(k)) f[k] = p.get(k)!;
  for (const k of flags) if (p.get(k)) f[k] = true;
  for (const k of numbers) if (Number(p.get(k))) f[k] = Number(p.get(k));
  return f as Filter;
}

/** said names each condition of a filter, for its chip. */
export function said(f: Filter, crew: (id: string) => string, zone: string): { key: keyof Filter; text: string }[] {
  const out: { key: keyof Filter; text: string }[] = [];
  const words: Partial<Record<keyof Filter, string>> = {
    standing: f.standing,
    mark: f.mark,
    crew: f.crew && `in ${crew(f.crew)}`,
    role: f.role,
    platform: f.platform && `on ${titled(f.platform)}`,
    tag: f.tag && `tag ${f.tag}`,
    trusted: f.trusted && "trusted",
    leaveBe: f.leaveBe && "left in peace",
    birthday: f.birthday && "birthday known",
    unthanked: f.unthanked && "raid not thanked",
    lost: f.lost && "no longer regular",
    gained: f.gained && "new regulars",
    from: f.from ? `at least ${f.from} streams` : undefined,
    to: f.to ? `at most ${f.to} streams` : undefined,
    since: f.since && `seen since ${dayIn(f.since, zone)}`,
    until: f.until && `not since ${dayIn(f.until, zone)}`,
    raid: f.raid ? "came with one raid" : undefined,
    stream: f.stream ? `first at stream ${f.stream}` : undefined,
  } as Partial<Record<keyof Filter, string>>;
  for (const [key, text] of Object.entries(words)) if (text) out.push({ key: key as keyof Filter, text });
  return out;
}
