import { el, name, paint } from "../dom";
import type { Line } from "../frames";
import type { Env, Kind } from "../view";

/** More lines than that never stand in a box, however small they are. */
const most = 60;

/** lines shows chat, the newest at the foot. */
export const lines: Kind = (at, box, env) => {
  paint(at, { "--size": `${box.size || 30}px` });
  const list = el("div", `lines ${box.look ?? "slate"}`);
  at.replaceChildren(list);
  const shows = box.show?.length ? box.show : ["viewers", "the house"];
  const timers = new Map<number, ReturnType<typeof setTimeout>>();
  const of = (id: number) => list.querySelector<HTMLElement>(`[data-line="${id}"]`);
  const drop = (e: Element | null) => {
    if (!(e instanceof HTMLElement)) return;
    clearTimeout(timers.get(Number(e.dataset.line)));
    timers.delete(Number(e.dataset.line));
    e.remove();
  };
  const line = (l: Line) => {
    if (!shows.includes(l.sort) || of(l.id)) return;
    const e = el("p", `line tint-${l.tint}`);
    e.dataset.line = String(l.id);
    if (l.sort === "the house") e.classList.add("ours");
    if (box.marks !== "never") e.append(el("i", box.marks === "always" ? "at" : "at sometimes", l.mark));
    e.append(name(l.name, "by"), " ", said(l, env));
    list.append(e);
    while (list.children.length > most || (list.children.length > 1 && list.scrollHeight > at.clientHeight + 1)) drop(list.firstElementChild);
    if (box.seconds)
      timers.set(
        l.id,
        setTimeout(() => {
          e.classList.add("fades");
          setTimeout(() => drop(e), env.calm() ? 0 : 600);
        }, box.seconds * 1000),
      );
  };
  return {
    line,
    unline: (ids) => ids.forEach((id) => drop(of(id))),
    sample: (on) => {
      if (on) sample.forEach((l) => line(l));
      else sample.forEach((l) => drop(of(l.id)));
    },
    fits: () => {
      while (list.children.length > 1 && list.scrollHeight > at.clientHeight + 1) drop(list.firstElementChild);
    },
    gone: () => timers.forEach((t) => clearTimeout(t)),
  };
};

/** said is a line's text, with emotes as pictures where their platform told them. */
function said(l: Line, env: Env): HTMLElement {
  const e = el("bdi", "text");
  const text = [...l.text];
  let at = 0;
  for (const m of l.emotes ?? []) {
    if (m.from < at || m.to > text.length) continue;
    e.append(text.slice(at, m.from).join(""));
    const img = el("img", "emote-in-line");
    img.alt = text.slice(m.from, m.to).join("");
    img.src = env.media({ name: img.alt, path: m.path });
    e.append(img);
    at = m.to;
  }
  e.append(text.slice(at).join(""));
  return e;
}

const sample: Line[] = [
  ["Quayside", "sandhopper9", "biggest dog whelk yet", 1],
  ["Fernlight", "ottoline_reed", "is it moving?", 2],
  ["Quayside", "tidewrack", "hello from the herons", 3],
  ["Fernlight", "saltpan_pip", "did the anemone make it through?", 5],
].map(([platform, name, text, tint], i) => ({
  id: -1 - i,
  sort: "viewers",
  platform: platform as string,
  mark: (platform as string)[0]!,
  name: name as string,
  text: text as string,
  tint: tint as number,
}));
