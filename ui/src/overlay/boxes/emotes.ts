import { drawing, el, paint } from "../dom";
import type { Kind } from "../view";

/** emotes lets emotes float up, so many at once and no more. */
export const emotes: Kind = (at, box, env) => {
  paint(at, { "--size": `${box.size || 56}px`, "--rises": `${box.seconds || 5}s` });
  const float = (what: HTMLElement | SVGElement) => {
    if (at.children.length >= (box.most || 12) || env.calm()) return;
    const e = el("span", "emote", what as Node);
    paint(e, { "--at": `${10 + 70 * Math.random()}%`, "--sway": `${Math.random() < 0.5 ? -1 : 1}` });
    e.addEventListener("animationend", () => e.remove());
    at.append(e);
  };
  let samples: ReturnType<typeof setInterval> | undefined;
  const drawn = () => {
    const [d, look] = marks[Math.floor(Math.random() * marks.length)]!;
    return drawing("0 0 16 16", `mark ${look}`, ["path", { d }]);
  };
  return {
    emote: (url) => {
      const img = el("img", "");
      img.alt = "";
      img.src = url;
      float(img);
    },
    sample: (on) => {
      clearInterval(samples);
      at.replaceChildren();
      if (on) samples = setInterval(() => float(drawn()), 700);
    },
    show: () => ({ ready: Promise.resolve(), seconds: () => box.seconds || 5, begin: () => marks.forEach(() => float(drawn())), end: () => undefined }),
    gone: () => clearInterval(samples),
  };
};

const marks: [string, string][] = [
  ["M1 11C3 4 6 2 8 2s5 2 7 9c-4 2-10 2-14 0Z", "shell"],
  ["M8 1l1.700 4.600 5-.5-3.800 3.100 2.100 4.600L8 10l-5 2.800 2.100-4.600L1.300 5.100l5 .5Z", "star"],
  ["M8 15C8 11 4 11 4 7s2-4 2-6c3 2 2 4 2 6 1-3 4-3 4-6 2 5-1 6-2 8s-1 3-2 6Z", "weed"],
  ["M8 1c3.500 3.500 5 6 5 8.500A5 5 0 0 1 3 9.500C3 7 4.500 4.500 8 1Z", "drop"],
];
