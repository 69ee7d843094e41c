import { arrayMove } from "@dnd-kit/sortable";
import type { Deed, Porch } from "../../api/client";

/** What a peg may look at to know what it would do. */
export type Now = { hands: Porch["hands"]; hush: boolean; on: boolean; flood: boolean; draw?: string; ready: string[] };

/** Peg is one thing to do with one press of a thumb: it says done or why not, and asks nothing twice. */
export type Peg = {
  id: string;
  words: string;
  done: string;
  /** Whoever never chose has it, the more of them the nearer to the thumb. */
  fresh?: number;
  /** A second press takes the first back, so that it waits for nothing. */
  turns?: boolean;
  press: () => Promise<{ data?: Deed; error?: unknown }>;
};

/** Each file beside this one is a kind of pegs; one more kind is one more file. */
export type Kind = (now: Now) => Peg[];

const kinds = import.meta.glob<Kind>(["./*.ts", "!./peg.ts", "!./*.test.ts"], { eager: true, import: "pegs" });

/** allPegs are all there are now, in the order of their kinds. */
export const allPegs = (now: Now): Peg[] => Object.keys(kinds).sort().flatMap((file) => kinds[file]!(now)); // prettier-ignore

/** hung are the pegs somebody chose, in their order; what is no more is left out. Who never chose has the fresh ones. */
export function hung(all: Peg[], chosen: string[]): Peg[] {
  if (chosen.length === 0) return all.filter((p) => p.fresh).sort((a, b) => a.fresh! - b.fresh!);
  return chosen.flatMap((id) => all.find((p) => p.id === id) ?? []);
}

// What is no more may come back (a draw that is kept ready again, a courtesy switched on): a change of what hangs leaves it
// where it was among the chosen.

/** chosenOf are the ids that a change begins from; who never chose begins from the fresh ones. */
export const chosenOf = (all: Peg[], chosen: string[]) => (chosen.length > 0 ? chosen : hung(all, chosen).map((p) => p.id));

/** without takes one down; the last one stays, as none at all would be the fresh ones again. */
export const without = (id: string) => (ids: string[]) => (ids.some((i) => i !== id) ? ids.filter((i) => i !== id) : ids);

/** also hangs one more, farthest down; what hangs already hangs once. */
export const also = (id: string) => (ids: string[]) => (ids.includes(id) ? ids : [...ids, id]);

/** moved hangs one where another hangs. */
export const moved = (id: string, over: string) => (ids: string[]) => {
  const [from, to] = [ids.indexOf(id), ids.indexOf(over)];
  return from < 0 || to < 0 ? ids : arrayMove(ids, from, to);
};
