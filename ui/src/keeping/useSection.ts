import { useQuery, useQueryClient } from "@tanstack/react-query";
import { useRef, useState } from "react";
import { alone, api, based, said, type Problem, type Settings } from "../api/client";
import { useAgain, useDeed } from "../api/deeds";
import { about, house } from "../api/queries";
import { toast } from "../api/toast";
import { turns } from "../api/turns";

export type Section = keyof Settings;

/**
 * useSection is a section of the settings as it stands in a form. What is typed is in force once it is saved: on leaving
 * a field, or at once where something is chosen. What others changed meanwhile is merged with it, or put to whoever is here.
 */
export function useSection<K extends Section>(section: K) {
  const q = useQuery(house);
  const client = useQueryClient();
  const deed = useDeed();
  const again = useAgain();
  // inForce is the version it came into force with: it stands in the form until the settings of that version have come.
  const [typed, setTyped] = useState<{ value: Settings[K]; base: number; inForce?: number }>();
  const [fault, setFault] = useState<{ at: string; words: string }>();
  const [saved, setSaved] = useState(false);
  const latest = useRef(typed);
  const newest = useRef(0); // version that is known of: a second change right after the first is made on that one
  const [turn] = useState(turns);
  const kept = q.data?.settings as Settings | undefined;
  const keep = (next: typeof typed) => {
    latest.current = next;
    setTyped(next);
  };
  const theirs = () => {
    keep(undefined);
    setFault(undefined);
    return again(about.house);
  };
  /** save puts what was typed in force, once whatever was saved before it is: it is made on that. */
  const save = (on?: number): Promise<boolean> => turn(() => write(on));
  const coming = () => client.fetchQuery(house).catch((problem: unknown) => void toast(said(problem))); // it stands in the form, and is not in force
  const write = async (on?: number): Promise<boolean> => {
    const known = q.data ?? (latest.current && (await coming())); // typed before the settings were there: it waits for them
    const now = latest.current;
    if (!now || now.inForce !== undefined) return true;
    if (!known) return false;
    const base = on ?? (now.base || known.version);
    const there = (known.settings as Settings)[section];
    const value = now.base ? now.value : onto(there, now.value);
    return deed(api.PUT("/api/house/sections/{section}", { params: { path: { section } }, body: { value: value ?? null }, ...based(base) }), {
      stale: [about.house, about.courtesies, about.history, about.session, about.moving],
      then: (made) => {
        const { version } = made;
        // Where somebody else changed something in between, what is typed here was not made on theirs.
        if (alone(made, base)) newest.current = Math.max(newest.current, version);
        if (latest.current === now) keep({ ...now, inForce: version });
        else if (latest.current) {
          const { value, base: on } = latest.current; // typed on top of what is in force now
          keep({ value: on ? value : onto(there, value), base: alone(made, base) ? version : on || base });
        }
        setFault(undefined);
        setSaved(true);
      },
      fault: (words, problem) => setFault({ at: placeOf(problem as Problem), words: wordsOf(problem as Problem) ?? words }),
      clash: { mine: (v: number) => void save(v), theirs },
    }).then((x) => !!x);
  };
  const set = (value: Settings[K]) => {
    setSaved(false);
    const open = latest.current?.inForce === undefined ? latest.current?.base : undefined;
    keep({ value, base: open ?? Math.max(newest.current, q.data?.version ?? 0) });
  };
  const stands = typed && (typed.inForce === undefined || (q.data?.version ?? 0) < typed.inForce);
  return {
    /** The section as it stands in the form. */
    value: stands ? typed.value : kept?.[section],
    version: q.data?.version ?? 0,
    /** set types; save puts it in force. */
    set,
    save: () => save(),
    /** put does both. */
    put: (value: Settings[K]) => {
      set(value);
      return save();
    },
    fault,
    saved,
  };
}

/**
 * onto puts what was typed before the settings were there upon them. It was typed upon nothing: a list of one is one more, and what
 * has one field changes that field.
 */
function onto<T>(there: T, typed: T): T {
  if (Array.isArray(there) && Array.isArray(typed)) return [...there, ...typed] as T;
  const fields = (x: unknown): x is Record<string, unknown> => typeof x === "object" && x !== null && !Array.isArray(x);
  if (!fields(there) || !fields(typed)) return typed;
  return { ...there, ...Object.fromEntries(Object.entries(typed).map(([k, v]) => [k, onto<unknown>(there[k], v)])) };
}

/** placeOf is where in the section a problem is: "places.2.url". */
const placeOf = (p: Problem | undefined): string => p?.faults?.[0]?.at ?? p?.field ?? "";

const wordsOf = (p: Problem | undefined): string | undefined => {
  const f = p?.faults?.[0];
  if (f) return `${f.what}: ${f.remedy}`;
  return p?.field && p.remedy ? p.remedy : undefined;
};
