import { useCallback, useEffect, useRef, useState } from "react";
import { alone, api, based, type CourtesyView, type Rule } from "../api/client";
import { useAgain, useDeed } from "../api/deeds";
import { about } from "../api/queries";
import { turns } from "../api/turns";
import { filled } from "../whom/conditions";
import { complete } from "./outputs";

const enactAfter = 600; // ms of quiet until a change of when, who and do comes into force

const whole = (r: Rule) => filled(r.who) && r.outputs.every((o) => complete(o) && filled(o.only ?? {}));

/**
 * useRule keeps the when, the who and the shape of the do of a courtesy as they are changed: every change comes into force by
 * itself once it can. What was undone or changed elsewhere shows, unless something was just changed here.
 */
export function useRule(c: CourtesyView, version: number) {
  const { id } = c;
  const askAgain = useAgain();
  const deed = useDeed();
  const [rule, setRule] = useState(c.rule);
  const [fault, setFault] = useState("");
  const timer = useRef<number>(undefined);
  const latest = useRef(rule);
  const base = useRef(version); // what stands here was made of this version
  const inForce = useRef(c.rule);
  const again = useRef<(on?: number) => Promise<void>>(undefined);
  const [turn] = useState(turns); // what is changed while a change is on its way is made on that
  const onItsWay = useRef(0);
  const [settled, settle] = useState(0); // how many came into force

  const shown = JSON.stringify(c.rule);
  useEffect(() => {
    inForce.current = c.rule;
    if (timer.current !== undefined || onItsWay.current > 0) return;
    const theirs = JSON.stringify(latest.current) !== shown;
    base.current = version;
    if (!theirs) return;
    latest.current = c.rule;
    setRule(c.rule);
  }, [c.rule, settled, shown, version]);

  const write = useCallback(
    async (on?: number): Promise<void> => {
      const r = latest.current;
      const done = await deed(api.PUT("/api/courtesies/{id}", { params: { path: { id } }, body: r, ...based(on ?? base.current) }), {
        stale: [about.courtesies],
        then: (made) => {
          setFault("");
          if (alone(made, base.current)) base.current = made.version;
        },
        fault: (words) => setFault(`Not in force: ${words}`),
        clash: {
          mine: (v) => again.current?.(v),
          theirs: () => {
            latest.current = inForce.current;
            setRule(inForce.current);
            setFault("");
            return askAgain(about.courtesies);
          },
        },
      });
      onItsWay.current--;
      if (done) settle((n) => n + 1);
    },
    [askAgain, deed, id],
  );
  const enact = useCallback(
    (on?: number): Promise<void> => {
      timer.current = undefined;
      if (!whole(latest.current)) {
        setFault("Not in force yet: a condition or an output still wants its value.");
        return Promise.resolve();
      }
      onItsWay.current++;
      return turn(() => write(on));
    },
    [turn, write],
  );
  useEffect(() => {
    again.current = enact;
    return () => {
      if (timer.current === undefined) return;
      clearTimeout(timer.current);
      void enact(); // leaving the view is leaving the field
    };
  }, [enact]);

  const change = useCallback(
    (part: Partial<Rule>) => {
      latest.current = { ...latest.current, ...part };
      setRule(latest.current);
      clearTimeout(timer.current);
      timer.current = window.setTimeout(() => void enact(), enactAfter);
    },
    [enact],
  );
  return { rule, change, fault };
}
