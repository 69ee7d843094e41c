import { useCallback, useRef, useState } from "react";
import type { Courtesies } from "../api/client";

/**
 * usePressed are the switches that were just pressed: they show as they were pressed until the house has answered the last
 * press of each, whatever is read of the settings meanwhile. One that was refused shows what is in force again.
 */
export function usePressed() {
  const [pressed, set] = useState<Record<string, { on: boolean; n: number }>>({});
  const count = useRef(0);
  const press = useCallback(async (id: string, on: boolean, act: () => Promise<unknown>) => {
    const n = ++count.current;
    set((p) => ({ ...p, [id]: { on, n } }));
    await act();
    set(({ [id]: mine, ...rest }) => (mine && mine.n !== n ? { ...rest, [id]: mine } : rest));
  }, []);
  const over = (d: Courtesies): Courtesies => ({ ...d, courtesies: d.courtesies.map((c) => (c.id in pressed ? { ...c, on: pressed[c.id]!.on } : c)) });
  return { press, over };
}
