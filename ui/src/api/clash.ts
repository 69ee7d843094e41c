import type { Problem } from "./client";
import { store } from "./store";

/** The two sides of what two people changed at once. */
export type Sides = { mine: (version: number) => unknown; theirs: () => unknown };

/** clash is what is put to whoever is here, if anything is. */
export const clash = store<(Sides & { problem: Problem }) | undefined>(undefined);

/** clashed puts a problem that is a clash with what somebody else changed; false for any other problem. */
export function clashed(p: unknown, sides: Sides): boolean {
  const problem = p as Problem | undefined;
  if (!problem?.clashes?.length) return false;
  clash.set({ ...sides, problem });
  return true;
}
