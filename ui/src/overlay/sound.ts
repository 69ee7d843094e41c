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
      limiter = new DynamicsCompressorNode(context, limits);
      limiter.connect(new GainNode(context, { gain: unmade })).connect(context.destination);
    }
    void context.resume();
    return { context, to: limiter };
  } catch {
    return undefined;
  }
}

/** A limiter: from just below full scale on, twenty to one, at once. */
const limits = { threshold: -3, knee: 0, ratio: 20, attack: 0.002, release: 0.1 };

/**
 * A compressor of the browser makes all louder by what it takes from full scale, to the power of 0.6 (Web Audio API, "makeup
 * gain"): from -3 dB at twenty to one, full scale loses 2.85 dB. It is taken back.
 */
const unmade = 10 ** ((-0.6 * (3 - 3 / 20)) / 20);

/** wake makes ready for sound ahead of the first, so that it need not wait for the machine. */
export const wake = () => void out();

/** through leads the sound of an element through the limiter, as loud as it should be; where no sound may be made it is mute. */
export function through(e: HTMLMediaElement, gain: number, mute?: boolean): (gain: number) => void {
  const o = mute ? undefined : out();
  if (!o || o.context.state !== "running") {
    e.muted = true;
    return () => undefined;
  }
  const level = new GainNode(o.context, { gain });
  o.context.createMediaElementSource(e).connect(level).connect(o.to);
  return (to) => (level.gain.value = to);
}

/** play plays something; where the browser lets nothing sound without a press, it plays mute. */
export async function play(e: HTMLMediaElement): Promise<void> {
  try {
    await e.play();
  } catch (why) {
    if (!(why instanceof DOMException) || why.name !== "NotAllowedError") throw why;
    e.muted = true;
    await e.play();
  }
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
    e.oncanplay = () => done();
    e.onerror = () => done();
  });
  return {
    ready,
    seconds: () => (isFinite(e.duration) ? e.duration : (m.seconds ?? 0)),
    failed: () => (e.error ? `${m.name} does not play` : undefined),
    begin: () => {
      level = through(e, m.gain, env.mute);
      void play(e).catch(() => undefined);
    },
    end: () => e.pause(),
    silence: () => {
      level?.(0);
      e.pause();
    },
  };
}
