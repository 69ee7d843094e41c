import type { operations } from "../api/schema.gen";

/** What the table is narrowed to, as it stands in the address of the view. */
export type Filter = NonNullable<operations["countPeople"]["parameters"]["query"]>;
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
export function said(f: Filter, crew: (id: string) => string): { key: keyof Filter; text: string }[] {
  const out: { key: keyof Filter; text: string }[] = [];
  const day = (s?: string) => (s ? new Date(s).toLocaleDateString("en-GB", { day: "numeric", month: "short", year: "numeric" }) : "");
  const words: Partial<Record<keyof Filter, string>> = {
    standing: f.standing,
    mark: f.mark,
    crew: f.crew && `in ${crew(f.crew)}`,
    role: f.role,
    platform: f.platform && `on ${f.platform[0]!.toUpperCase()}${f.platform.slice(1)}`,
    tag: f.tag && `tag ${f.tag}`,
    trusted: f.trusted && "trusted",
    leaveBe: f.leaveBe && "left in peace",
    birthday: f.birthday && "birthday known",
    unthanked: f.unthanked && "raid not thanked",
    lost: f.lost && "no longer regular",
    gained: f.gained && "new regulars",
    from: f.from ? `at least ${f.from} streams` : undefined,
    to: f.to ? `at most ${f.to} streams` : undefined,
    since: f.since && `seen since ${day(f.since)}`,
    until: f.until && `not since ${day(f.until)}`,
    raid: f.raid ? "came with one raid" : undefined,
    stream: f.stream ? `first at stream ${f.stream}` : undefined,
  } as Partial<Record<keyof Filter, string>>;
  for (const [key, text] of Object.entries(words)) if (text) out.push({ key: key as keyof Filter, text });
  return out;
}
