import { notifyManager, useQueryClient, type QueryClient, type QueryKey } from "@tanstack/react-query";
import { useCallback, useMemo, useRef } from "react";
import { useNavigate } from "react-router";
import { clashed, type Sides } from "./clash";
import { api, ask, said, type BookEdit } from "./client";
import { about } from "./queries";
import { toast } from "./toast";

/** What comes of a deed: all of it but what is asked. */
export type Comes<T> = {
  /** What it makes stale: those questions are asked again. */
  stale?: readonly QueryKey[];
  /** What is said of it in passing once it is done. */
  say?: string | ((answer: T) => string | undefined);
  /** How it is taken back; stands as Undo with what is said. */
  undo?: (answer: T) => unknown;
  /** Done with the answer, before anything is asked again. */
  then?: (answer: T) => void;
  /** Where its problem is said instead of in passing. */
  fault?: (words: string, problem: unknown) => void;
  /** The two sides to choose from when somebody else changed the same meanwhile. */
  clash?: Sides;
};

type Answer<T> = Promise<{ data?: T; error?: unknown }>;

/** notDone is why the house did not do it, of an answer that says so. */
const notDone = (answer: unknown): string | undefined => {
  const a = answer as { done?: boolean; because?: string[] } | undefined;
  return a && a.done === false ? (a.because ?? []).join("; ") : undefined;
};

/** stoodSo reports whether a change of the settings changed nothing: the version it names is somebody's before, and nothing to take back. */
const stoodSo = (answer: unknown) => (answer as { changed?: boolean } | undefined)?.changed === false;

/**
 * carryOut carries a deed out: what was not done and what went wrong is said, what it made stale is asked anew.
 * It answers when that is there and the page was told of it, so that what is pressed next is what stands; undefined is a
 * deed that was not done.
 */
export async function carryOut<T>(client: QueryClient, call: Answer<T>, comes: Comes<T> = {}): Promise<T | undefined> {
  const again = () => Promise.all((comes.stale ?? []).map((queryKey) => client.invalidateQueries({ queryKey })));
  let answer: T;
  try {
    answer = await ask(call);
  } catch (problem) {
    if (comes.clash && clashed(problem, comes.clash)) return undefined;
    if (comes.fault) comes.fault(said(problem), problem);
    else toast(said(problem));
    return undefined;
  }
  const why = notDone(answer);
  if (why !== undefined) {
    toast(why);
    return undefined;
  }
  comes.then?.(answer);
  const words = typeof comes.say === "function" ? comes.say(answer) : comes.say;
  const back = stoodSo(answer) ? undefined : comes.undo;
  if (words) toast(words, back && { label: "Undo", act: () => void back(answer) });
  await again();
  await new Promise<void>((told) => notifyManager.schedule(told)); // after those who look at what was asked again
  return answer;
}

/** useDeed carries deeds out from a part of the page. */
export function useDeed() {
  const client = useQueryClient();
  return useMemo(
    () =>
      <T>(call: Answer<T>, comes?: Comes<T>) =>
        carryOut(client, call, comes),
    [client],
  );
}

/**
 * useOnce carries out what counts each time it is done. Pressed again it is done once, until its then has dealt with the answer; or,
 * where there is none, until the page shows what came of it.
 */
export function useOnce() {
  const deed = useDeed();
  const busy = useRef<object>(undefined);
  return useCallback(
    async <T>(call: () => Answer<T>, comes: Comes<T> = {}): Promise<T | undefined> => {
      if (busy.current) return undefined;
      const mine = (busy.current = {});
      const free = () => {
        if (busy.current === mine) busy.current = undefined;
      };
      const { then } = comes;
      return deed(call(), { ...comes, then: then && ((answer) => (then(answer), free())) }).finally(free);
    },
    [deed],
  );
}

/** useAgain asks questions again that nothing done here made stale. */
export function useAgain() {
  const client = useQueryClient();
  return useMemo(() => (queryKey: QueryKey) => client.invalidateQueries({ queryKey }), [client]);
}

/** useHush holds all automatic lines, or lets them go on. */
export function useHush() {
  const deed = useDeed();
  return useCallback((on: boolean) => void deed(api.POST("/api/desk/hush", { body: { on } })), [deed]);
}

/** useFlood holds a flood of strangers off, or lets everybody in again. */
export function useFlood() {
  const deed = useDeed();
  return useCallback(
    (on: boolean) => void deed(api.POST("/api/desk/flood", { body: { on } }), { say: on ? "A flood of strangers is held off." : "Everybody is let in again." }),
    [deed],
  );
}

/** useHeld decides lines that are held. */
export function useHeld() {
  const deed = useDeed();
  return useCallback((held: string[], allow: boolean) => void deed(api.POST("/api/desk/held", { body: { held, allow } })), [deed]);
}

const inComingUp = "It is in Coming up; five seconds to drop it.";

/** useByHand asks for a courtesy by hand: a shout-out or a greeting for somebody, or one of those kept for a hand. */
export function useByHand() {
  const deed = useDeed();
  return useCallback(
    (act: "shoutout" | "greet" | "celebrate" | { courtesy: string }, account?: string) =>
      void deed(api.POST("/api/desk/ask", { body: typeof act === "string" ? { act, account } : { act: "courtesy", courtesy: act.courtesy, account } }), {
        say: inComingUp,
        stale: [about.dates],
      }),
    [deed],
  );
}

/** useOwnWords opens the courtesy in which somebody has words of their own, and makes it where there is none yet. */
export function useOwnWords() {
  const deed = useDeed();
  const go = useNavigate();
  return useCallback(
    async (account: string, slot: "greeting" | "shout-out") => {
      const made = await deed(api.POST("/api/courtesies", { body: { when: "arrival", slot, account } }), { stale: [about.courtesies] });
      if (made) void go(`/courtesies/${made.id}`);
    },
    [deed, go],
  );
}

/** useAnew lets greetings or shout-outs be made anew in this stream, for somebody or for everybody here. */
export function useAnew() {
  const deed = useDeed();
  return useCallback(
    (what: "greetings" | "shout-outs", who?: { account: string; name: string }) =>
      void deed(api.POST("/api/desk/rearm", { body: { what, account: who?.account } }), {
        say: what === "greetings" ? `${who?.name ?? "Everybody here"}: the next line is greeted anew.` : `${who?.name ?? "Everybody"} may be shouted out anew.`,
      }),
    [deed],
  );
}

/** useEdit changes what is set by hand of people, at once, and offers to take it back. */
export function useEdit() {
  const deed = useDeed();
  const undo = useUndo();
  return (persons: number[], e: Omit<BookEdit, "persons">) =>
    deed(api.POST("/api/book/edit", { body: { ...e, persons } }), { stale: [about.book], say: (d) => `Saved: ${d.what}`, undo: (d) => undo(d.seq) });
}

/** useUndo takes an edit of the guest book back by its number. */
export function useUndo() {
  const deed = useDeed();
  return (seq: number) => deed(api.POST("/api/book/undo", { body: { seq } }), { stale: [about.book], say: "Taken back." });
}

/** usePart makes a merged record one of its own again. */
export function usePart() {
  const deed = useDeed();
  return (record: number, say?: string) => deed(api.POST("/api/book/part", { body: { record } }), { stale: [about.book], say });
}

/** useSettingsUndo takes one version of the settings back. */
export function useSettingsUndo() {
  const deed = useDeed();
  return (version: number) => deed(api.POST("/api/settings/undo", { body: { version } }), { stale: [about.all] });
}

/** useSilence stops what sounds on the overlays, and what of it waits. */
export function useSilence() {
  const deed = useDeed();
  return useCallback(() => void deed(api.POST("/api/desk/silence"), { say: "The overlays are silent: what played and what waited is stopped." }), [deed]);
}

/** useMark sets a bookmark at this moment of the stream. */
export function useMark() {
  const deed = useDeed();
  return useCallback(() => void deed(api.POST("/api/desk/bookmark", { body: {} }), { stale: [about.bookmarks], say: (d) => d.because[0] }), [deed]);
}
