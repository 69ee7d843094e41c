import { el } from "../dom";
import { keyed } from "../key";
import { play, through } from "../sound";
import type { Kind } from "../view";

/** film shows films: with their own transparency, or without the colour that is taken out of them. */
export const film: Kind = (at, box, env) => {
  let sample: HTMLElement | undefined;
  return {
    show: (p) => {
      const m = p.media;
      if (!m || m.kind === "sound") return { ready: Promise.resolve(), begin: () => undefined, end: () => undefined };
      const url = env.media(m);
      const picture = (src: string) => {
        const img = el("img", "film");
        img.alt = "";
        img.src = src;
        return img;
      };
      if (m.kind === "picture") {
        const img = picture(url);
        return { ready: img.decode().catch(() => undefined), begin: () => at.append(img), end: () => img.remove() };
      }
      const video = el("video", "film");
      video.src = url;
      video.preload = "auto";
      video.playsInline = true;
      const key = p.key ?? box.key;
      const shown = key ? keyed(video, key) : { at: video as HTMLElement, stop: () => undefined };
      let level: ((gain: number) => void) | undefined;
      let instead: HTMLElement | undefined;
      const ready = new Promise<void>((done) => {
        video.oncanplay = () => done();
        video.onerror = () => done();
      });
      const fail = () => {
        if (!box.fallback || instead || !at.contains(shown.at)) return;
        instead = picture(env.media({ name: box.fallback }));
        shown.at.replaceWith(instead);
      };
      return {
        ready,
        seconds: () => (video.error ? 0 : isFinite(video.duration) && video.duration > 0 ? video.duration : (m.seconds ?? 0)),
        failed: () => (video.error ? `${m.name} does not play` : undefined),
        begin: () => {
          sample?.remove();
          at.append(shown.at);
          if (video.error || video.readyState < HTMLMediaElement.HAVE_CURRENT_DATA) return fail();
          level = through(video, m.gain, env.mute);
          video.addEventListener("error", fail); // it breaks off
          void play(video).catch(fail);
        },
        end: () => {
          video.pause();
          shown.stop();
          shown.at.remove();
          instead?.remove();
          if (sample) at.append(sample);
        },
        silence: () => level?.(0),
      };
    },
    sample: (on) => {
      sample?.remove();
      sample = on ? el("div", "film-sample") : undefined;
      if (sample) at.append(sample);
    },
    gone: () => at.replaceChildren(),
  };
};
