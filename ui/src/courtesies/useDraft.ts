import { useCallback, useEffect, useRef, useState } from "react";
import { alone, api, based, basedLate, type CourtesyView, type Draft, type DraftOutput, type Fault } from "../api/client";
import { useDeed } from "../api/deeds";
import { about } from "../api/queries";

const saveAfter = 250; // ms of quiet until a draft is kept
const enactAfter = 3000; // ms of quiet until it comes into force

/** How what was typed stands to what is in force. */
export type Status = "in force" | "typing" | "draft" | "fault";

const wordsOf = (o: CourtesyView["outputs"][number]): DraftOutput => ({
  id: o.id,
  alternatives: o.alternatives,
  weights: o.weights,
  joined: o.joined,
  second: o.second,
  fields: o.fields,
});

/** shapeOf is how many wordings there are of each kind. */
const shapeOf = (d: Draft) => JSON.stringify(d.outputs.map((o) => [o.alternatives.length, o.joined?.length, Object.keys(o.fields ?? {})]));

/** draftOf is what was typed and is not in force yet, with the outputs that came since. */
const draftOf = (c: CourtesyView): Draft => ({ outputs: c.outputs.map((o) => c.draft?.outputs.find((d) => d.id === o.id) ?? wordsOf(o)) });

/**
 * useDraft keeps what is typed into a courtesy's wordings as a draft, and brings it into force when it is valid and the field
 * is left or quiet. What was undone or changed elsewhere shows, unless something is being typed here.
 */
export function useDraft(c: CourtesyView, version: number) {
  const { id } = c;
  const deed = useDeed();
  const [draft, setDraft] = useState(() => draftOf(c));
  const [faults, setFaults] = useState<Fault[]>(c.faults ?? []);
  const [status, setStatus] = useState<Status>(c.faults?.length ? "fault" : c.draft ? "draft" : "in force");
  const timers = useRef<{ save?: number; enact?: number }>({});
  const latest = useRef(draft);
  const typed = useRef(0); // how often something was typed or taken back: what comes in beside it from elsewhere does not count
  const dirty = useRef(!!c.draft && !c.faults?.length); // there is a good draft that is not in force
  const saving = useRef<Promise<boolean>>(undefined); // on its way: whoever leaves the field waits for it
  const base = useRef(version); // the words that are being typed were made of this version
  const enacting = useRef(Promise.resolve()); // what comes into force just now: it makes the next one
  const now = useRef(c);
  const again = useRef<(on: number) => Promise<void>>(undefined); // the same, for whoever takes theirs over what another changed

  const show = useCallback((d: Draft) => {
    latest.current = d;
    setDraft(d);
  }, []);

  useEffect(() => {
    if (!dirty.current && timers.current.save === undefined) base.current = version;
  }, [version]);

  /** back takes what was typed back; what is in force shows. */
  const back = useCallback(() => {
    clearTimeout(timers.current.save);
    clearTimeout(timers.current.enact);
    timers.current = {};
    dirty.current = false;
    typed.current++;
    show({ outputs: now.current.outputs.map(wordsOf) }); // a draft that is still on its way is overtaken by this
    return deed(api.DELETE("/api/courtesies/{id}/draft", { params: { path: { id } } }), {
      stale: [about.courtesies],
      then: () => {
        setFaults([]);
        setStatus("in force");
      },
    });
  }, [deed, id, show]);

  const save = useCallback((): Promise<boolean> => {
    clearTimeout(timers.current.save);
    timers.current.save = undefined;
    const write = async () => {
      const then = typed.current;
      const d = await deed(
        api.PUT("/api/courtesies/{id}/draft", {
          params: { path: { id } },
          body: latest.current,
          ...basedLate(() => base.current, enacting.current),
        }),
      );
      if (!d) return false;
      if (typed.current !== then) return d.valid; // overtaken: what was typed since is kept next
      setFaults(d.faults);
      dirty.current = d.changed && d.valid;
      setStatus(!d.changed ? "in force" : d.valid ? "draft" : "fault");
      return d.valid;
    };
    const mine = write();
    saving.current = mine;
    return mine.finally(() => {
      if (saving.current === mine) saving.current = undefined;
    });
  }, [deed, id]);

  /** enact brings a good draft into force, on another version than it was made of where somebody chose so. */
  const enact = useCallback(
    async (on?: number): Promise<void> => {
      clearTimeout(timers.current.enact);
      if (timers.current.save !== undefined ? !(await save()) : saving.current && !(await saving.current)) return;
      if (!dirty.current) return;
      const mine = typed.current;
      let known = () => {};
      enacting.current = new Promise((ok) => (known = ok));
      await deed(api.POST("/api/courtesies/{id}/enact", { params: { path: { id } }, ...(on ? based(on) : {}) }), {
        stale: [about.courtesies],
        then: (made) => {
          if (alone(made, base.current)) base.current = made.version; // what was typed since is made on it
          known();
          if (typed.current !== mine) return; // what was typed since is a draft of its own
          dirty.current = false;
          setStatus("in force");
        },
        clash: { mine: (v) => again.current?.(v), theirs: back },
      }).finally(known);
    },
    [back, deed, id, save],
  );
  useEffect(() => {
    again.current = enact;
  }, [enact]);

  useEffect(() => {
    if (dirty.current && now.current.on) timers.current.enact = window.setTimeout(() => void enact(), enactAfter);
    return () => void enact(); // leaving the view is leaving the field
  }, [enact]);

  const shown = JSON.stringify(c.outputs);
  const first = useRef(shown);
  useEffect(() => {
    now.current = c;
    if (first.current === shown) return;
    first.current = shown;
    const typing = dirty.current || timers.current.save !== undefined || saving.current !== undefined;
    show(typing ? { outputs: c.outputs.map((o) => latest.current.outputs.find((d) => d.id === o.id) ?? wordsOf(o)) } : draftOf(c));
    if (!typing) setFaults(c.faults ?? []);
  }, [c, shown, show]);

  const change = useCallback(
    (output: string, f: (w: DraftOutput) => DraftOutput) => {
      typed.current++;
      const was = shapeOf(latest.current);
      show({ outputs: latest.current.outputs.map((o) => (o.id === output ? f(o) : o)) });
      const reshaped = was !== shapeOf(latest.current); // a wording came or went: nobody is in a field that could be left
      setStatus("typing");
      clearTimeout(timers.current.save);
      clearTimeout(timers.current.enact);
      timers.current.save = window.setTimeout(() => void save(), saveAfter);
      // What is not on yet comes in when its field is left, never by a pause.
      if (now.current.on || reshaped) timers.current.enact = window.setTimeout(() => void enact(), enactAfter);
    },
    [enact, save, show],
  );
  return { draft, faults, status, change, enact, back };
}
