import { useCallback, useRef, useState } from "react";
import { alone, api, based, type CourtesyView, type InForce, type Rule } from "../api/client";
import { useDeed, type Comes } from "../api/deeds";
import { about } from "../api/queries";
import { turns } from "../api/turns";

/** Seen is a rule as somebody saw it, in a version of the settings. */
export type Seen = { rule: Rule; version: number };

/**
 * useChange changes a part of a courtesy's rule at once, one change after the other. Each is made on what whoever changes it sees,
 * or on their own change before it where the page does not show that yet; what others changed meanwhile is merged with it. shown is
 * the version of the settings that the page shows.
 */
export function useChange(shown = 0) {
  const deed = useDeed();
  const [turn] = useState(turns);
  const mine = useRef(new Map<string, Seen>()); // how a courtesy stands since one's own last change of it
  return useCallback(
    (c: CourtesyView, part: Partial<Rule> | ((r: Rule) => Partial<Rule>), seen: Seen = { rule: c.rule, version: shown }, comes?: Omit<Comes<InForce>, "stale" | "then">) =>
      turn(() => {
        const own = mine.current.get(c.id);
        const on = own && own.version > seen.version ? own : seen;
        const rule = { ...on.rule, ...(typeof part === "function" ? part(on.rule) : part) };
        return deed(api.PUT("/api/courtesies/{id}", { params: { path: { id: c.id } }, body: rule, ...based(on.version) }), {
          ...comes,
          stale: [about.courtesies],
          then: (made) => {
            if (alone(made, on.version)) mine.current.set(c.id, { rule, version: made.version });
            else mine.current.delete(c.id); // others' changes are in it, which only the page can show
          },
        });
      }),
    [deed, shown, turn],
  );
}
