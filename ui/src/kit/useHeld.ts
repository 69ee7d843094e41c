import { useState, type FocusEvent } from "react";

/** kept is a list in the order in which it was held: what is there as it is now, what is gone as it last was, what is new at the end. */
export function kept<T>(was: T[], list: T[], key: (t: T) => string): T[] {
  const now = new Map(list.map((t) => [key(t), t]));
  const known = new Set(was.map(key));
  return [...was.map((t) => now.get(key(t)) ?? t), ...list.filter((t) => !known.has(key(t)))];
}

/**
 * useHeld keeps a list's order still while pointer or focus is inside: what was there keeps its place, what is new goes to
 * the end, what is gone stays as it last was until the hand leaves. The list must be the same while nothing in it changed.
 */
export function useHeld<T>(list: T[], key: (t: T) => string) {
  const [was, setWas] = useState<T[]>(); // as it stood when it was looked at last; undefined while nobody holds it
  const shown = was ? kept(was, list, key) : list;
  if (was && (shown.length !== was.length || shown.some((t, i) => t !== was[i]))) setWas(shown);
  const present = new Set(list.map(key));
  const hold = () => setWas((w) => w ?? list);
  return {
    list: shown,
    isGone: (t: T) => !present.has(key(t)),
    holds: {
      onPointerEnter: hold,
      onPointerLeave: () => setWas(undefined),
      onFocus: hold,
      onBlur: (e: FocusEvent) => {
        if (!e.currentTarget.contains(e.relatedTarget)) setWas(undefined);
      },
    },
  };
}
