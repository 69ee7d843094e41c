import { drawing, el, lantern, name, paint } from "../dom";
import type { Box, Medium, Part } from "../frames";
import { play, through } from "../sound";
import type { Env, Kind, Shown } from "../view";

/** What stands in a box while it is placed, and what is tried there: people of the sample world, one after another. */
const made: Part[] = [
  { effect: "card", text: "limpet_lena", second: "has a birthday tonight", letters: "LL" },
  { effect: "card", text: "kelpwright and 42 more", second: "come over from the kelp shed", letters: "K" },
  { effect: "card", text: "ottoline_reed", second: "gave five subscriptions", letters: "OR" },
  { effect: "card", text: "sandhopper9", second: "follows since this very tide", letters: "S9" },
];

/** How long a card takes to go, in milliseconds. */
const goes = 450;

/** cards shows cards one at a time, in one of our three looks. */
export const cards: Kind = (at, box, env) => {
  let sample: HTMLElement | undefined;
  let turn = 0;
  const show = (p: Part, f: { try?: boolean }): Shown => {
    const part = p.effect === "box" ? { ...made[turn++ % made.length]!, media: p.media } : p;
    const card = draw(part, box, env, !!f.try);
    return {
      ready: card.ready,
      seconds: () => Math.max(card.seconds(), p.effect === "box" ? (box.seconds ?? 8) : 0),
      failed: card.failed,
      begin: () => {
        sample?.remove();
        at.append(card.at);
        fit(card.at, at);
        card.at.classList.add("comes");
        card.begin();
      },
      end: () =>
        new Promise<void>((done) => {
          card.at.classList.replace("comes", "goes");
          const gone = () => {
            card.at.remove();
            card.end();
            if (sample) at.append(sample);
            done();
          };
          if (motion(card.at, "goes") === "is gone" || env.calm()) gone();
          else setTimeout(gone, goes);
        }),
      silence: card.silence,
    };
  };
  return {
    show,
    sample: (on) => {
      sample?.remove();
      sample = undefined;
      if (!on) return;
      sample = draw(made[0]!, box, env, false).at;
      at.append(sample);
      fit(sample, at);
    },
    fits: () => sample && fit(sample, at),
    gone: () => at.replaceChildren(),
  };
};

const motion = (card: HTMLElement, of: "comes" | "goes") => card.dataset[of];

/** draw makes a card of what is told, with what it shows. */
function draw(p: Part, box: Box, env: Env, tried: boolean) {
  const s = { ...box, ...p.style };
  const look = s.look ?? "hung lantern";
  const at = el("article", `card ${look.replace(" ", "-")}`);
  at.dataset.comes = s.comes ?? "is hung";
  at.dataset.goes = s.goes ?? "is dimmed";
  paint(at, { "--size": `${s.size || 60}px`, "--board": s.board, "--words": s.words, "--light": s.light });
  const picture = p.media ? medium(p.media, env, p.letters ?? "") : undefined;
  const words = el("div", "words", el("p", "heading", name(p.text ?? "")), p.second ? el("p", "second", name(p.second)) : undefined, tried ? el("p", "tried", "a try") : undefined);
  const mark = picture?.at ?? lantern(p.letters ?? "");
  if (look === "hung lantern") {
    at.append(
      drawing("0 0 296 14", "iron", ["path", { d: "M0 9.500H277c7 0 10-4 6-7" }]),
      el("div", "hung", el("div", "mark", mark), el("div", "hook", el("div", "board", words, water()))),
    );
    at.querySelector("svg.iron")!.setAttribute("preserveAspectRatio", "none");
  } else if (look === "glass slide") at.append(el("div", "slide", el("div", "label mark", mark), words));
  else at.append(el("div", "tide", el("div", "mark", mark), words, water()));
  return {
    at,
    ready: picture?.ready ?? Promise.resolve(),
    seconds: picture?.seconds ?? (() => 0),
    failed: picture?.failed ?? (() => undefined),
    begin: picture?.begin ?? (() => undefined),
    end: picture?.end ?? (() => undefined),
    silence: picture?.silence,
  };
}

const water = () => {
  const w = drawing("0 0 240 12", "water", ["path", { d: "M0 6c22-5 24-5 40 0s28 4 42-1 26-5 42 0 28 3 42-1 26 6 42 0 24-4 32-1" }]);
  w.setAttribute("preserveAspectRatio", "none");
  return w;
};

/** medium is what a card shows beside its words: somebody's own picture in their lantern, and the lantern alone where nothing loads. */
function medium(m: Medium, env: Env, letters: string) {
  const url = env.media(m);
  if (m.kind !== "film") {
    const img = el("img", m.face ? "face" : "picture");
    const at = m.face ? lantern("", undefined, img) : el("span", "", img);
    img.alt = "";
    let broken = false;
    const ready = new Promise<void>((done) => {
      img.onload = () => done();
      img.onerror = () => ((broken = true), at.replaceWith(lantern(letters)), done());
    });
    img.src = url;
    return { at, ready, seconds: () => 0, failed: () => (broken ? `${m.name} does not load` : undefined), begin: () => undefined, end: () => undefined, silence: undefined };
  }
  const film = el("video", "picture");
  film.src = url;
  film.preload = "auto";
  film.playsInline = true;
  let level: ((gain: number) => void) | undefined;
  const ready = new Promise<void>((done) => {
    film.oncanplay = () => done();
    film.onerror = () => (film.replaceWith(lantern(letters)), done());
  });
  return {
    at: film,
    ready,
    seconds: () => (film.error ? 0 : isFinite(film.duration) ? film.duration : (m.seconds ?? 0)),
    failed: () => (film.error ? `${m.name} does not play` : undefined),
    begin: () => {
      level = through(film, m.gain, env.mute);
      void play(film).catch(() => undefined);
    },
    end: () => film.pause(),
    silence: () => level?.(0),
  };
}

/** fit makes type smaller until a card stands within its box. */
function fit(card: HTMLElement, box: HTMLElement) {
  const style = getComputedStyle(card);
  const full = parseFloat(style.getPropertyValue("--size")) || 60;
  for (let size = full, i = 0; i < 24; i++) {
    card.style.fontSize = `${size}px`;
    const heading = card.querySelector<HTMLElement>(".heading")!;
    if ((card.scrollHeight <= box.clientHeight + 1 && card.scrollWidth <= box.clientWidth + 1 && heading.scrollWidth <= heading.clientWidth + 1) || size <= 12) return;
    size *= 0.92;
  }
}
