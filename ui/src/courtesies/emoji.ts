// Emoji are picked by typing a word behind a colon. Their names and the words they are known by are
// Unicode's own, from CLDR as emojibase gives them out; they come once somebody types.

export type Emoji = { text: string; name: string; words: string[] };

type Given = { unicode: string; label: string; tags?: string[]; order?: number };

let all: Promise<Emoji[]> | undefined;

/** emoji are all there are, in Unicode's order; parts of others are left out. */
export const emoji = (): Promise<Emoji[]> =>
  (all ??= import("emojibase-data/en/compact.json").then(
    (m) =>
      (m.default as Given[])
        .filter((e) => e.order !== undefined)
        .sort((a, b) => a.order! - b.order!)
        .map((e) => ({ text: e.unicode, name: e.label, words: e.tags ?? [] })),
    () => {
      all = undefined; // the house was away: asked again at the next word
      return [];
    },
  ));

/** picked are those that a word means: by their whole name first, then by a word of it, then by what else they are known by. */
export function picked(list: Emoji[], word: string, most = 12): Emoji[] {
  const w = word.toLowerCase();
  const rank = (e: Emoji): number => {
    const name = e.name.toLowerCase();
    const parts = name.split(/[^\p{L}\p{N}]+/u);
    if (name === w) return 0;
    if (parts.includes(w)) return 1;
    if (e.words.includes(w)) return 2;
    if (name.startsWith(w)) return 3;
    if (parts.some((p) => p.startsWith(w))) return 4;
    return e.words.some((x) => x.startsWith(w)) ? 5 : 6;
  };
  return list
    .map((e) => ({ e, r: rank(e) }))
    .filter((x) => x.r < 6)
    .sort((a, b) => a.r - b.r)
    .slice(0, most)
    .map((x) => x.e);
}
