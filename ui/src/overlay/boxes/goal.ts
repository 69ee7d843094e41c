import { drawing, el, paint } from "../dom";
import type { Box } from "../frames";
import type { Kind } from "../view";

/** amount is a number as people write it: whole, unless it is money. */
export const amount = (n: number, b: Box) =>
  n.toLocaleString(undefined, b.what === "tips" ? { minimumFractionDigits: n % 1 ? 2 : 0, maximumFractionDigits: 2 } : { maximumFractionDigits: 0 }) +
  (b.what === "tips" && b.currency ? ` ${b.currency}` : "");

/** Lanterns of a row that is a goal. */
const hung = 10;

/** goal is how far something has come, as a bar or a row of lanterns. */
export const goal: Kind = (at, box) => {
  paint(at, { "--size": `${box.size || 32}px` });
  const far = el("span", "far");
  const row = el("div", box.as === "bar" ? "bar" : "row");
  at.replaceChildren(el("div", "goal plate", el("div", "said", el("span", "label", box.label || box.title || usual(box)), far), row));
  const lights: HTMLElement[] = [];
  if (box.as === "bar") row.append(el("i", "filled"));
  else {
    const cord = drawing("0 0 264 20", "cord", ["path", { d: "M4 2C60 16 204 16 260 2" }]);
    cord.setAttribute("preserveAspectRatio", "none");
    row.append(cord);
    for (let i = 0; i < hung; i++) {
      const l = el("i", "light");
      paint(l, { "--at": String((i + 0.5) / hung), "--sag": String(1 - ((i + 0.5 - hung / 2) / (hung / 2)) ** 2) });
      l.append(drawing("0 0 34 40", "lantern-shape", ["path", { d: glass, class: "glass empty" }], ["path", { d: glass, class: "glass" }]));
      lights.push(l);
      row.append(l);
    }
  }
  const board = (value: unknown) => {
    const n = Number(value) || 0;
    const target = box.target || 1;
    far.textContent = `${amount(n, box)} of ${amount(target, box)}`;
    const share = Math.max(0, Math.min(1, (n - (box.start ?? 0)) / Math.max(1e-9, target - (box.start ?? 0))));
    paint(row, { "--share": `${100 * share}%` });
    lights.forEach((l, i) => paint(l, { "--lit": `${100 * Math.max(0, Math.min(1, share * hung - i))}%` }));
    at.classList.toggle("reached", n >= target);
  };
  board(box.start ?? 0);
  return { board, sample: (on) => on && board((box.target ?? 1) * 0.68) };
};

const glass = "M9 3h16c3.800 3.600 5.400 8 5.400 13.200S28.800 26.400 25 30H9C5.200 26.400 3.600 22 3.600 16.200S5.200 6.600 9 3Z";

const usual = (b: Box) => ({ followers: "Followers", subscribers: "Subscribers", tips: "Tips", lanterns: "Lanterns lit", command: "Count" })[b.what as string] ?? "";

/** count is a number alone. */
export const count: Kind = (at, box) => {
  paint(at, { "--size": `${box.size || 48}px` });
  const n = el("span", "number", "0");
  at.replaceChildren(el("div", "count plate", el("span", "label", box.label || box.title || usual(box)), n));
  const board = (value: unknown) => (n.textContent = amount(Number(value) || 0, box));
  return { board, sample: (on) => on && board(1284) };
};
