import { useEffect, useState } from "react";
import type { components } from "../../api/schema.gen";
import { shapeOf, type ShapeName } from "./Lantern";

export type Evening = components["schemas"]["Evening"];
export type Mark = components["schemas"]["Mark"];

const near = 14; // px: closer shapes become one stack

export type Stack = { x: number; shape: ShapeName; n: number; id: string; names: string[] };

/** clear is how far from a stack the next shape stands: its count has to fit between. */
const clear = (s: Stack) => near + (s.n > 1 ? 9 + 7 * String(s.n).length : 0);

/** shaped are the arrivals with a shape of their own; whoever is never greeted has none. */
const shaped = (arrivals: Mark[]) =>
  arrivals.flatMap((m) => {
    const s = shapeOf(m.standing, 0, m.fellow);
    return s ? [[m, s] as const] : [];
  });

/** useWidth measures a box. */
export function useWidth() {
  const [el, box] = useState<HTMLDivElement | null>(null);
  const [width, setWidth] = useState(() => Math.min(1240, innerWidth - 40)); // until it is measured;
  useEffect(() => {
    if (!el) return;
    const o = new ResizeObserver(([e]) => setWidth(Math.max(200, Math.floor(e!.contentRect.width))));
    o.observe(el);
    return () => o.disconnect();
  }, [el]);
  return { box, width };
}

/** thin leaves out ticks that would touch the one before. */
export function thin(said: Mark[], x: (iso: string) => number): { id: string; x: number }[] {
  const out: { id: string; x: number }[] = [];
  for (const m of said) {
    const at = x(m.at);
    if (!out.length || at - out[out.length - 1]!.x >= 4) out.push({ id: m.id, x: at });
  }
  return out;
}

/**
 * drawn is an evening as it is drawn: chat as a soft hill, arrivals as shapes of which close ones are one stack, raids as arcs sized by heads with labels that
 * give way, bookmarks, and when the house spoke. ground is where the line is, high how far the hill may rise, most how wide an arc may be.
 */
export function drawn(
  { minutes, arrivals, raids, said, pins }: Evening,
  from: number,
  long: number,
  width: number,
  { ground, high = 44, most = 48 }: { ground: number; high?: number; most?: number },
) {
  const x = (iso: string) => Math.max(4, Math.min(width - 6, ((Date.parse(iso) - from) / long) * (width - 10)));
  const step = ((width - 10) * 60_000) / long;
  const tall = Math.max(8, ...minutes);
  // The hill: lines a minute, smoothed over three minutes so that it stays a hill.
  let hill = `M0 ${ground}`;
  for (let i = 0; i <= minutes.length; i++) {
    const v = ((minutes[i - 1] ?? 0) + 2 * (minutes[i] ?? 0) + (minutes[i + 1] ?? 0)) / 4;
    hill += `L${Math.min(width, (i + 0.5) * step).toFixed(1)} ${(ground - (v / tall) * high).toFixed(1)}`;
  }
  hill += `L${width} ${ground}Z`;
  const stacks: Stack[] = [];
  const put = (m: Mark, shape: ShapeName) => {
    const at = x(m.at);
    const last = stacks[stacks.length - 1];
    if (last && at - last.x < clear(last) && last.shape !== "wave" && shape !== "wave") {
      last.n++;
      last.names.push(m.name ?? "");
      if (last.shape !== shape && shape === "seed") last.shape = shape;
      return;
    }
    // Beside a raid's wave a shape keeps its distance instead of joining it.
    const free = last ? last.x + clear(last) : at;
    stacks.push({ x: Math.min(width - 8, Math.max(at, free)), shape, n: 1, id: m.id, names: [m.name ?? ""] });
  };
  const all = [...shaped(arrivals), ...raids.map((m) => [m, "wave"] as const)];
  all.sort((a, b) => a[0].at.localeCompare(b[0].at));
  all.forEach(([m, s]) => put(m, s));
  const arcs = raids.map((m) => ({ id: m.id, x: x(m.at), r: Math.min(most, 8 + 3.6 * Math.sqrt(m.viewers ?? 0)), name: m.name, viewers: m.viewers ?? 0 }));
  // Labels give way, the larger raid first.
  const taken: [number, number][] = [];
  const labels = [...arcs]
    .sort((a, b) => b.viewers - a.viewers)
    .flatMap((a) => {
      const w = 7 * ((a.name?.length ?? 0) + String(a.viewers).length + 9);
      const right = a.x + a.r * 0.72 + 8 + w < width;
      const lx = right ? a.x + a.r * 0.72 + 8 : a.x - a.r * 0.72 - 8;
      const [from, to] = right ? [lx, lx + w] : [lx - w, lx];
      if (from < 0 || taken.some(([f, t]) => from < t && to > f)) return [];
      taken.push([from, to]);
      return [{ ...a, lx, ly: Math.max(12, ground - a.r * 0.72 - 4), anchor: (right ? "start" : "end") as "start" | "end" }];
    });
  return { hill, stacks, arcs, labels, said: thin(said, x), pins: pins.map((m) => ({ id: m.id, x: x(m.at), name: m.name || "a bookmark" })) };
}
