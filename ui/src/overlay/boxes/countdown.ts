import { el, paint } from "../dom";
import type { Kind } from "../view";

/** left writes seconds as people read a clock: 1:42:10, 4:05, 0:00; days stand before. */
export function left(seconds: number): string {
  const s = Math.max(0, Math.ceil(seconds));
  const two = (n: number) => String(n).padStart(2, "0");
  const [d, h, m] = [Math.floor(s / 86_400), Math.floor((s % 86_400) / 3600), Math.floor((s % 3600) / 60)];
  if (d) return `${d} d ${h}:${two(m)}:${two(s % 60)}`;
  return h ? `${h}:${two(m)}:${two(s % 60)}` : `${m}:${two(s % 60)}`;
}

/** countdown counts down by the house's clock. */
export const countdown: Kind = (at, box, env) => {
  paint(at, { "--size": `${box.size || 56}px` });
  const figures = el("span", "number");
  const plate = el("div", "countdown plate", el("span", "label", box.label || box.title || ""), figures);
  at.replaceChildren(plate);
  let stands: { ends?: string; left: number } = { left: box.seconds ?? 0 };
  let timer: ReturnType<typeof setTimeout> | undefined;
  const tick = () => {
    clearTimeout(timer);
    const ms = stands.ends ? Date.parse(stands.ends) - env.now() : stands.left * 1000;
    figures.textContent = left(ms / 1000);
    plate.classList.toggle("still", !stands.ends);
    plate.classList.toggle("over", ms <= 0);
    if (stands.ends && ms > 0) timer = setTimeout(tick, ms % 1000 || 1000); // as the figure changes
  };
  const board = (value: unknown) => {
    stands = value as typeof stands;
    tick();
  };
  tick();
  return { board, gone: () => clearTimeout(timer) };
};
