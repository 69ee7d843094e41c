import type { Problem } from "./client";

/** Two sides of what two people changed at once. */
export type Clash = { problem: Problem; mine: (version: number) => unknown; theirs: () => unknown };

let open: Clash | undefined;
const listeners = new Set<() => void>();

/** settle puts the question to whoever is here, or takes it away. */
export function settle(next?: Clash) {
  open = next;
  listeners.forEach((l) => l());
}

/** clashed shows a problem that is a clash with what somebody else changed, with both sides to choose from; false for any other problem. */
export function clashed(p: unknown, mine: Clash["mine"], theirs: Clash["theirs"]): boolean {
  const problem = p as Problem | undefined;
  if (!problem?.clashes?.length) return false;
  settle({ problem, mine, theirs });
  return true;
}

export const clash = {
  subscribe(l: () => void) {
    listeners.add(l);
    return () => listeners.delete(l);
  },
  current: () => open,
};
