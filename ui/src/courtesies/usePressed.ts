import { useQueryClient } from "@tanstack/react-query";
import { useCallback, useSyncExternalStore } from "react";
import type { Courtesies } from "../api/client";
import { courtesies } from "../api/queries";
import { store } from "../api/store";

const pressed = store<Record<string, { on: boolean; n: number }>>({}); // not the view's own: it may be left before the house answers
let count = 0;

const as = (on: boolean, id: string, d: Courtesies): Courtesies => ({ ...d, courtesies: d.courtesies.map((c) => (c.id === id ? { ...c, on } : c)) });

/**
 * usePressed are the switches that were just pressed: they show as they were pressed until the house has answered the last
 * press of each, whatever is read of the settings meanwhile, and after that until the settings are read again. One
 * that was refused shows what is in force again.
 */
export function usePressed() {
  const client = useQueryClient();
  const now = useSyncExternalStore(pressed.subscribe, pressed.current);
  const press = useCallback(
    async (id: string, on: boolean, act: (answered: () => void) => Promise<unknown>) => {
      const n = ++count;
      pressed.set({ ...pressed.current(), [id]: { on, n } });
      await act(() => client.setQueryData(courtesies.queryKey, (d) => d && as(on, id, d))); // before anything is read again
      const { [id]: mine, ...rest } = pressed.current();
      if (mine?.n === n) pressed.set(rest);
    },
    [client],
  );
  const over = (d: Courtesies): Courtesies => Object.entries(now).reduce((all, [id, { on }]) => as(on, id, all), d);
  return { press, over };
}
