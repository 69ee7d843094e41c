import type { Dials, DraftChanges, RehearsalWanted, Rehearsals, SideWanted } from "../api/client";

/** What is lived: just one of a stream, a written or kept evening, a script that is being written, and dials. */
export type What = { stream: number } | { evening: string } | { script: string; called: string } | { dials: Dials };

/** wanted is what the house is asked to live. */
export const wanted = (what: What, above: SideWanted, below: SideWanted, ownChance: boolean): RehearsalWanted => ({
  ...("stream" in what ? { stream: what.stream } : "evening" in what ? { evening: what.evening } : "script" in what ? { script: what.script } : { dials: what.dials }),
  above,
  below,
  ownChance,
});

/** whatIs names an evening in a sentence. */
export function whatIs(what: What, all: Rehearsals | undefined, dated: (iso: string) => string): string {
  if ("stream" in what) {
    const r = all?.recorded.find((x) => x.stream === what.stream);
    return r ? `the stream of ${dated(r.opened)}` : `stream ${what.stream}`;
  }
  if ("evening" in what) return `“${what.evening}”`;
  if ("script" in what) return what.called ? `“${what.called}”` : "the evening you write";
  return "an imagined evening";
}

/** changesIn counts what a draft changes beside words. */
export const changesIn = (c: DraftChanges) => Object.keys(c.switches ?? {}).length + Object.keys(c.pace ?? {}).length;

/** sideIs names what an evening is lived under, in a sentence. */
export function sideIs(side: SideWanted, all: Rehearsals | undefined, when: (iso: string) => string): string {
  switch (side.kind) {
    case "said":
      return "what was said";
    case "force":
      return "the settings in force";
    case "version": {
      const v = all?.versions.find((x) => x.version === side.version);
      return v ? `the settings of ${when(v.at)}` : `version ${side.version}`;
    }
    case "file":
      return "another house file";
    case "draft": {
      const n = (all?.draft.length ?? 0) + changesIn(side.changes ?? {});
      return n === 0 ? "a draft without a change" : n === 1 ? "your draft of 1 change" : `your draft of ${n} changes`;
    }
  }
}

/** short is what stands beside a line of the drawing. */
export const short: Record<SideWanted["kind"], string> = { said: "As it was", force: "In force", version: "Earlier", file: "The file", draft: "Changed" };

/** seconds writes a wait: "41 s", "2 min 5 s". */
export const seconds = (s: number) => (s < 100 ? `${Math.round(s)} s` : `${Math.floor(s / 60)} min ${Math.round(s % 60)} s`);
