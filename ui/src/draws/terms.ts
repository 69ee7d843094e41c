import type { Terms } from "../api/client";

/** ways are how a draw is won: as the form calls it, and as the page on which anyone checks it does. */
export const ways: { value: Terms["way"]; label: string; hint: string }[] = [
  { value: "word", label: "Whoever says a word", hint: "each person once; one of them is drawn" },
  { value: "lately", label: "Whoever spoke lately", hint: "nothing to say; one of them is drawn" },
  { value: "answer", label: "The first right answer", hint: "to a question" },
  { value: "number", label: "The nearest number", hint: "or only the very number" },
];

/** fresh are terms to begin with. */
export const fresh: Terms = { way: "word", prizes: [""], word: "!tide", claimSeconds: 60, rest: 3 };

/** anew are the terms of the draw before, without what was its own: its prizes, and what had to be guessed. */
export function anew(t: Terms): Terms {
  const next = { ...t, prizes: [""] };
  for (const k of ["ask", "answers", "hint", "number"] as const) delete next[k];
  return inWay(next, t.way);
}

/** needs are the fields that each way has of its own, with what they begin as. */
const needs: Record<Terms["way"], Partial<Terms>> = {
  word: { word: "!tide" },
  lately: { minutes: 10 },
  answer: { ask: "", answers: [""], loose: true },
  number: { ask: "", from: 1, to: 100, guesses: 1 },
};
const own = ["word", "minutes", "ask", "answers", "loose", "hint", "hintMinutes", "from", "to", "number", "exact", "guesses"] as const;

/** inWay are the same terms another way: what belongs to another way goes, and what this one needs is there. */
export function inWay(t: Terms, way: Terms["way"]): Terms {
  const next: Terms = { ...t, way };
  for (const k of own) if (!(k in needs[way])) delete next[k];
  return { ...needs[way], ...next };
}

/** said is how to win, in a few words. */
export function said(t: { way: string; word?: string; minutes?: number; ask?: string; from?: number; to?: number }): string {
  switch (t.way) {
    case "word":
      return `say ${t.word ?? ""}`;
    case "lately":
      return `spoke within ${t.minutes ?? 0} minutes`;
    case "answer":
      return t.ask || "the first right answer";
  }
  return `${t.ask ? `${t.ask} ` : ""}${t.from ?? 0} to ${t.to ?? 0}`;
}

/** ready are terms as they are sent: without empty lines. */
export const ready = (t: Terms): Terms => ({
  ...t,
  prizes: t.prizes.map((p) => p.trim()).filter(Boolean),
  answers: t.answers?.map((a) => a.trim()).filter(Boolean),
});
