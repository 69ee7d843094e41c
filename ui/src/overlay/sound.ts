import type { Medium } from "./frames";
import type { BoxView, Env, Shown } from "./view";

// All that sounds goes through one limiter, so that nothing is ever louder than it should be, however much sounds at once.
let context: AudioContext | undefined;
let limiter: DynamicsCompressorNode | undefined;

/** out is where sound goes to; nothing where the browser has none. */
function out(): { context: AudioContext; to: AudioNode } | undefined {
  try {
    context ??= new AudioContext();
    if (!limiter) {
      limiter = limit(context);
      limiter.connect(context.destination);
    }
    void context.resume();
    return { context, to: limiter };
  } catch {
    return undefined;
  }
}

/** limit is a limiter: from just below full scale on, twenty to one, at once. */
export function limit(context: BaseAudioContext): DynamicsCompressorNode {
  return new DynamicsCompressorNode(context, { threshold: -3, knee: 0, ratio: 20, attack: 0.002, release: 0.1 });
}

/** through leads the sound of an element through the limiter, as loud as it should be. */
export function through(e: HTMLMediaElement, gain: number, mute?: boolean): (gain: number) => void {
  if (mute) {
    e.muted = true;
    return () => undefined;
  }
  const o = out();
  if (!o) return () => (e.muted = true);
  const level = new GainNode(o.context, { gain });
  o.context.createMediaElementSource(e).connect(level).connect(o.to);
  return (to) => (level.gain.value = to);
}

/** audio plays a sound, and is over with it. */
export function audio(env: Env): BoxView {
  return {
    show: (p) => (p.media ? sounding(p.media, env) : { ready: Promise.resolve(), begin: () => undefined, end: () => undefined }),
  };
}

function sounding(m: Medium, env: Env): Shown {
  const e = new Audio(env.media(m));
  e.preload = "auto";
  let level: ((gain: number) => void) | undefined;
  const ready = new Promise<void>((done) => {
    e.oncanplaythrough = () => done();
    e.onerror = () => done();
  });
  return {
    ready,
    seconds: () => (isFinite(e.duration) ? e.duration : (m.seconds ?? 0)),
    failed: () => (e.error ? `${m.name} does not play` : undefined),
    begin: () => {
      level = through(e, m.gain, env.mute);
      void e.play().catch(() => undefined);
    },
    end: () => e.pause(),
    silence: () => {
      level?.(0);
      e.pause();
    },
  };
}
