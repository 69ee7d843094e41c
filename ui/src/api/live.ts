import { useEffect, useState, useSyncExternalStore } from "react";
import type { Change, Entry, Guest, Porch, ShownEvening } from "./client";
import { madeUp } from "./madeUp";
import { store } from "./store";

/** What the Porch shows, with guests by account; replaced, never changed, at each step. */
export type Live = Omit<Porch, "guests"> & {
  byAccount: Map<string, Guest>;
  link: "opening" | "open" | "lost";
  skew: number; // the house's clock less ours, in ms
};

const mostEntries = 5000;
export const mostPending = 200; // changes that wait for a frame
const silent = 25_000; // ms without a beat: the connection is dead, whatever the browser thinks
const apart = 50; // ms between two times that the page is drawn anew
const steady = 250; // ms by which the two clocks may drift apart before it shows

let state: Live | undefined;
let link: Live["link"] = "opening";
let source: EventSource | undefined;
let heard = 0;
let pending: (() => void)[] = [];
let drawn = 0; // when, by the page's own clock
const shown = store<Live | undefined>(undefined); // what the page shows of it: the same, unless nobody looks

/** A page that is not looked at is kept up with the house, and drawn when it is seen again. */
function set(next: Live | undefined) {
  state = next && { ...next, link };
  if (!document.hidden) shown.set(state);
}

/** seenAgain draws what changed while the page was hidden. */
function seenAgain() {
  run();
  if (shown.current() !== state) set(state);
}

/** Changes are applied once a frame, however fast they come, and no more often than an eye can follow. */
function soon(f: () => void) {
  pending.push(f);
  if (pending.length >= mostPending) return run();
  if (pending.length > 1) return;
  setTimeout(run, 250); // a tab that is hidden gets no frame, and its timers late
  if (document.hidden) return;
  const wait = drawn + apart - performance.now();
  if (wait > 0) setTimeout(() => requestAnimationFrame(run), wait);
  else requestAnimationFrame(run);
}

function run() {
  if (pending.length === 0) return;
  const todo = pending;
  pending = [];
  drawn = performance.now();
  todo.forEach((g) => g());
  set(state);
}

/** current is how things stand now. */
export const current = () => state;

/** skewOf is the house's clock less ours: as it was, unless they drifted apart. */
function skewOf(now: string): number {
  const skew = Date.parse(now) - Date.now();
  return state && Math.abs(skew - state.skew) < steady ? state.skew : skew;
}

function whole(p: Porch) {
  const { guests, ...rest } = p;
  state = { ...rest, byAccount: new Map(guests.map((g) => [g.account, g])), link, skew: skewOf(p.now) };
}

/** merge adds entries; one that is known replaces the one before. */
export function merge(list: Entry[], more: Entry[] | undefined): Entry[] {
  if (!more?.length) return list;
  const out = list.slice();
  for (const e of more) {
    const changes = e.kind === "house" && e.state !== "sending";
    let at = -1;
    for (let i = out.length - 1; i >= 0 && i > out.length - 800; i--)
      if (out[i]!.id === e.id) {
        at = i;
        break;
      }
    if (at >= 0) out[at] = changes ? { ...out[at]!, state: e.state } : e;
    else if (!changes) out.push(e);
  }
  return out.length > mostEntries + 500 ? out.slice(-mostEntries) : out;
}

function apply(c: Change) {
  if (!state) return;
  const was = state;
  const part = <K extends "coming" | "waiting" | "doors" | "cards">(k: K): Live[K] => (c.same?.includes(k) ? was[k] : ((c[k] ?? []) as Live[K]));
  const byAccount = c.fresh ? new Map<string, Guest>() : new Map(state.byAccount);
  for (const g of c.guests ?? []) byAccount.set(g.account, g);
  const e = c.evening;
  const evening = !e
    ? state.evening
    : e.added && !c.fresh
      ? {
          minutes: e.minutes,
          pins: e.pins,
          arrivals: e.arrivals.length ? [...state.evening.arrivals, ...e.arrivals] : state.evening.arrivals,
          raids: e.raids.length ? [...state.evening.raids, ...e.raids] : state.evening.raids,
          said: e.said.length ? [...state.evening.said, ...e.said] : state.evening.said,
        }
      : e;
  state = {
    ...state,
    seq: c.seq,
    now: c.now,
    live: c.live,
    coming: part("coming"),
    waiting: part("waiting"),
    doors: part("doors"),
    hush: c.hush,
    held: c.held,
    databaseGone: c.databaseGone,
    clockBack: c.clockBack,
    cards: part("cards"),
    byAccount,
    evening,
    entries: merge(state.entries, c.entries),
    skew: skewOf(c.now),
  };
}

function setLink(l: Live["link"]) {
  link = l;
  set(state);
}

let reopen = () => {};

/** play shows a made-up evening in the place of what there is; what it gives back ends it. */
export function play(e: ShownEvening): () => void {
  source?.close();
  pending = [];
  madeUp.set(true);
  link = "open";
  whole(e.whole);
  set(state);
  const timers = e.frames.map((f) => setTimeout(() => soon(() => apply(f.change)), f.after));
  return () => {
    timers.forEach(clearTimeout);
    pending = [];
    madeUp.set(false);
    set(undefined);
    reopen();
  };
}

/** follow opens the stream of changes and keeps it open; the browser resumes by the last id it saw. */
export function follow(): () => void {
  const open = () => {
    source?.close();
    heard = Date.now();
    source = new EventSource("/api/porch/live");
    const on = (name: string, f: (data: string) => void) =>
      source!.addEventListener(name, (ev) => {
        heard = Date.now();
        if (link !== "open") setLink("open");
        f((ev as MessageEvent<string>).data);
      });
    on("whole", (d) => {
      const p = JSON.parse(d) as Porch;
      soon(() => whole(p));
    });
    on("change", (d) => {
      const c = JSON.parse(d) as Change;
      soon(() => apply(c));
    });
    on("database", (d) => {
      const { gone, clockBack } = JSON.parse(d) as { gone: boolean; clockBack: number };
      soon(() => {
        if (state) state = { ...state, databaseGone: gone, clockBack };
      });
    });
    on("beat", () => undefined);
    source.onerror = () => {
      setLink("lost");
      if (source?.readyState === EventSource.CLOSED) setTimeout(() => !madeUp.current() && open(), 1500);
    };
  };
  reopen = open;
  open();
  // After a laptop's sleep the connection may be dead without an error.
  const watch = setInterval(() => {
    if (!madeUp.current() && Date.now() - heard > silent) {
      setLink("lost");
      open();
    }
  }, 2000);
  document.addEventListener("visibilitychange", seenAgain);
  return () => {
    document.removeEventListener("visibilitychange", seenAgain);
    clearInterval(watch);
    source?.close();
  };
}

/**
 * useLive picks something of what the Porch shows, and draws its part of the page anew when that changed. What is
 * picked is a part of it as it stands, or made of such parts as a plain value; undefined until the house has told.
 */
export function useLive<T>(pick: (s: Live) => T): T | undefined {
  return useSyncExternalStore(shown.subscribe, () => {
    const s = shown.current();
    return s && pick(s);
  });
}

/** whenTold is how things stand, waited for until the house has told. */
export function whenTold(): Promise<Live> {
  return new Promise((done) => {
    const look = () => {
      const s = shown.current();
      if (!s) return;
      stop();
      done(s);
    };
    const stop = shown.subscribe(look);
    look();
  });
}

/** useSlowly picks as useLive does, and shows what changed at most once in so many ms: for what is dear to draw and is only glanced at. */
export function useSlowly<T>(every: number, pick: (s: Live) => T): T | undefined {
  const [seen, set] = useState(shown.current);
  const any = seen !== undefined;
  useEffect(() => {
    let timer: number | undefined;
    const soon = () => {
      timer ??= window.setTimeout(
        () => {
          timer = undefined;
          set(shown.current());
        },
        any ? every : 0, // the first is shown at once
      );
    };
    const stop = shown.subscribe(soon);
    soon(); // what changed before this part of the page listened
    return () => {
      stop();
      clearTimeout(timer);
    };
  }, [any, every]);
  return seen && pick(seen);
}
