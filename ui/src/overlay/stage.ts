import type { Box, Line, Overlay, Part, Show } from "./frames";
import { el, paint } from "./dom";
import { kinds } from "./boxes/kinds";
import type { BoxView, Env, Shown } from "./view";

/** How a stage is told of what it does not know itself. */
export interface Outside {
  /** The address of a file. */
  media: (m: { name: string; path?: string }) => string;
  /** The house's clock, in milliseconds. */
  now: () => number;
  /** It plays no sound: the arrangement, on the page of a member. */
  mute?: boolean;
}

/** Nothing stays longer than that, whatever its film says; in seconds. */
export const mostSeconds = 180;

/** How long what is to be shown may take to load, in milliseconds; what is not there by then is shown without. */
const loadWithin = 4000;

/**
 * Stage is an overlay as it is seen: its boxes, and what stands in them. It is drawn at the overlay's own size, and scaled to
 * the element it stands in.
 */
export class Stage {
  private board = el("div", "overlay");
  private views = new Map<string, { box: Box; view: BoxView; at: HTMLElement }>();
  private whole = el("div", "box whole");
  private overlay?: Overlay;
  private watch = new ResizeObserver(() => this.fit());
  private waits: Promise<unknown> = Promise.resolve();
  private sounds = new Set<Shown>();
  private drops = new Map<string, () => void>(); // what ends a thing before its time, of those that are on or wait
  private platforms = new Set<string>(); // that chat comes from

  constructor(
    private root: HTMLElement,
    private outside: Outside,
  ) {
    root.replaceChildren(this.board);
    this.watch.observe(root);
  }

  /** stand draws an overlay; boxes that stay what they were keep what stands in them. */
  stand(o: Overlay, board: Record<string, unknown>, lines: Line[] = []) {
    this.overlay = o;
    paint(this.board, { "--wide": `${o.wide}px`, "--high": `${o.high}px` });
    this.board.classList.toggle("calm", !!o.calm);
    const kept = new Map(this.views);
    this.views.clear();
    const order: HTMLElement[] = [];
    for (const box of o.boxes ?? []) {
      const was = kept.get(box.id);
      if (box.off || !(box.kind in kinds)) continue;
      const same = was && JSON.stringify({ ...was.box, left: 0, top: 0, wide: 0, high: 0, locked: 0 }) === JSON.stringify({ ...box, left: 0, top: 0, wide: 0, high: 0, locked: 0 });
      const at = same ? was.at : el("div", "box");
      const view = same ? was.view : kinds[box.kind](at, box, this.env());
      if (same) kept.delete(box.id);
      at.dataset.box = box.id;
      paint(at, { left: `${box.left}%`, top: `${box.top}%`, width: `${box.wide}%`, height: `${box.high}%` });
      this.views.set(box.id, { box, view, at });
      order.push(at);
    }
    kept.forEach((k) => (k.view.gone?.(), k.at.remove()));
    this.board.replaceChildren(...order, this.whole);
    this.fit();
    this.shows(board);
    lines.forEach((l) => this.line(l));
  }

  private env(): Env {
    return { ...this.outside, calm: () => !!this.overlay?.calm || matchMedia("(prefers-reduced-motion: reduce)").matches };
  }

  private fit() {
    const o = this.overlay;
    if (!o) return;
    const scale = Math.min(this.root.clientWidth / o.wide, this.root.clientHeight / o.high) || 1;
    paint(this.board, { "--scale": String(scale) });
    this.views.forEach((v) => v.view.fits?.());
  }

  /** shows tells boxes what stands in them now. */
  shows(board: Record<string, unknown>) {
    for (const [id, value] of Object.entries(board)) this.views.get(id)?.view.board?.(value);
  }

  /** line shows a line of chat; the emotes of one that is said just now float up, too. */
  line(l: Line, now = false) {
    this.board.classList.toggle("several", this.platforms.add(l.platform).size > 1);
    this.views.forEach((v) => v.view.line?.(l));
    if (now) l.emotes?.forEach((e) => this.views.forEach((v) => v.view.emote?.(this.outside.media({ name: "", path: e.path }))));
  }

  unline(ids: number[]) {
    this.views.forEach((v) => v.view.unline?.(ids));
  }

  /** sample lets something made up stand in a box, or takes it away. */
  sample(id: string, on: boolean) {
    this.views.get(id)?.view.sample?.(on);
  }

  /** silence stops what sounds. */
  silence() {
    this.sounds.forEach((s) => s.silence?.());
  }

  /**
   * show shows things at once, after whatever is on: they begin together once they are loaded and are over together. It
   * tells begun with how many seconds they take, and ends once all is gone; with what could not be shown.
   */
  show(f: Show, begun?: (seconds: number) => void): Promise<string> {
    let gone = false;
    const dropped = new Promise<void>((done) => this.drops.set(f.show, () => ((gone = true), done())));
    const next = this.waits.then(() => (gone ? "" : this.now(f, dropped, begun))).finally(() => this.drops.delete(f.show));
    this.waits = next.catch(() => undefined);
    return next;
  }

  /** drop takes something off at once, or out of those that wait. */
  drop(show: string) {
    this.drops.get(show)?.();
  }

  private async now(f: Show, dropped: Promise<void>, begun?: (seconds: number) => void): Promise<string> {
    const parts = f.parts.map((p) => this.part(p, f)).filter((s): s is Shown => !!s);
    const late = new Promise<void>((done) => setTimeout(done, loadWithin));
    await Promise.race([Promise.all(parts.map((s) => s.ready)), late]);
    const failed = parts.map((s) => s.failed?.()).filter(Boolean);
    const seconds = Math.min(Math.max(f.seconds, ...parts.map((s) => s.seconds?.() ?? 0), 0.1), mostSeconds);
    parts.forEach((s) => this.sounds.add(s));
    parts.forEach((s) => s.begin(seconds));
    begun?.(seconds);
    await Promise.race([new Promise((done) => setTimeout(done, seconds * 1000)), dropped]);
    await Promise.all(parts.map((s) => (this.sounds.delete(s), s.end())));
    return failed.join("; ");
  }

  private part(p: Part, f: { try?: boolean }): Shown | undefined {
    if (p.whole)
      return kinds.film(this.whole, { id: "whole", kind: "film", left: 0, top: 0, wide: 100, high: 100, ...(p.box && this.views.get(p.box)?.box) } as Box, this.env()).show?.(p, f);
    if (p.effect === "sound" || p.effect === "speak") return kinds.sound(this.env()).show!(p, f);
    return p.box ? this.views.get(p.box)?.view.show?.(p, f) : undefined;
  }

  /** clear takes everything away. */
  clear() {
    this.silence();
    this.views.forEach((v) => v.view.gone?.());
    this.views.clear();
    this.board.replaceChildren();
    this.overlay = undefined;
  }

  gone() {
    this.clear();
    this.watch.disconnect();
    this.board.remove();
  }
}
