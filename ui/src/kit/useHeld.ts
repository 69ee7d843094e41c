import { useRef, useState } from "react";

/**
 * useHeld keeps a list's order still while pointer or focus is inside: what was there keeps its place, what
 * is new goes to the end, what is gone stays as it last was until the hand leaves.
 */
export function useHeld<T>(list: T[], key: (t: T) => string) {
  const [held, setHeld] = useState(false);
  const shown = useRef<T[]>(list);
  if (!held) shown.current = list;
  else {
    const now = new Map(list.map((t) => [key(t), t]));
    const next = shown.current.map((t) => now.get(key(t)) ?? t);
    const known = new Set(shown.current.map(key));
    shown.current = [...next, ...list.filter((t) => !known.has(key(t)))];
  }
  const present = new Set(list.map(key));
  return {
    list: shown.current,
    isGone: (t: T) => !present.has(key(t)),
    held,
    holds: {
      onPointerEnter: () => setHeld(true),
      onPointerLeave: () => setHeld(false),
      onFocus: () => setHeld(true),
      onBlur: (e: React.FocusEvent) => {
        if (!e.currentTarget.contains(e.relatedTarget)) setHeld(false);
      },
    },
  };
}
