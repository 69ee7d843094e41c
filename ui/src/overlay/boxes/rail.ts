import { drawing, el, lantern, name, paint } from "../dom";
import type { Kind } from "../view";

interface Light {
  name: string;
  shape?: string;
}

/** A name stays beside a lantern so long after it was lit, in milliseconds. */
const namedFor = 8000;
/** So many lanterns are lit one by one; beyond that they come all at once, calmly. */
const oneByOne = 3;

/** rail is tonight's people as lanterns on a cord. */
export const rail: Kind = (at, box, env) => {
  const cord = drawing("0 0 1000 60", "cord", ["path", { d: "M0 6C250 46 750 46 1000 6" }]);
  cord.setAttribute("preserveAspectRatio", "none");
  const hung = el("div", "lights");
  const more = el("span", "more");
  at.replaceChildren(el("div", "rail", cord, hung, more));
  let known = new Map<string, HTMLElement>();
  let first = true;
  const board = (value: unknown) => {
    const v = value as { lights: Light[]; more?: number };
    const seen = new Map<string, number>();
    const next = new Map<string, HTMLElement>();
    const fresh = v.lights.filter((l) => !known.has(`${l.name}#0`)).length;
    v.lights.forEach((l, i) => {
      const twice = seen.get(l.name) ?? 0;
      seen.set(l.name, twice + 1);
      const key = `${l.name}#${twice}`;
      let e = known.get(key);
      if (!e) {
        e = el("div", "hangs", lantern(initials(l.name), l.shape), name(l.name, "called"));
        if (!first && fresh <= oneByOne && !env.calm()) e.classList.add("lit-now");
        if (box.names !== "always" && box.names !== "never") {
          const mine = e;
          if (!first && fresh <= oneByOne) mine.classList.add("named");
          setTimeout(() => mine.classList.remove("named"), namedFor);
        }
        e.classList.toggle("named-always", box.names === "always");
      }
      const x = (i + 0.5) / v.lights.length;
      paint(e, { "--at": String(x), "--sag": String(4 * x * (1 - x)), "--of": String(v.lights.length) });
      next.set(key, e);
    });
    known.forEach((e, key) => !next.has(key) && e.remove());
    known = next;
    hung.replaceChildren(...next.values());
    more.textContent = v.more ? `and ${v.more} before them` : "";
    first = false;
  };
  board({ lights: [] });
  return { board, sample: (on) => on && board({ lights: sample, more: 12 }) };
};

const initials = (n: string) =>
  n
    .split(/[\s_.-]+/)
    .filter(Boolean)
    .slice(0, 2)
    .map((w) => [...w][0]!.toUpperCase())
    .join("");

const sample: Light[] = [
  "limpet_lena ring",
  "kelpwright sail",
  "sandhopper9 leaf",
  "ottoline_reed ring",
  "tidewrack seed",
  "moss_and_mortar leaf",
  "saltpan_pip moon",
  "heron_hour wave",
].map((s) => {
  const [name, shape] = s.split(" ");
  return { name: name!, shape };
});
