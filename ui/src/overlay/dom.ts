import { shapes } from "../kit/drawings/shapes";

/** el makes an element; text is text, whatever it holds. */
export function el<K extends keyof HTMLElementTagNameMap>(tag: K, look: string, ...inner: (Node | string | undefined)[]): HTMLElementTagNameMap[K] {
  const e = document.createElement(tag);
  if (look) e.className = look;
  e.append(...inner.filter((x) => x !== undefined));
  return e;
}

/** drawing makes an SVG of paths, each with its attributes. */
export function drawing(viewBox: string, look: string, ...shapes: [tag: string, attributes: Record<string, string>][]): SVGSVGElement {
  const ns = "http://www.w3.org/2000/svg";
  const svg = document.createElementNS(ns, "svg");
  svg.setAttribute("viewBox", viewBox);
  svg.setAttribute("class", look);
  svg.setAttribute("aria-hidden", "true");
  for (const [tag, attributes] of shapes) {
    const shape = document.createElementNS(ns, tag);
    for (const [name, value] of Object.entries(attributes)) shape.setAttribute(name, value);
    svg.append(shape);
  }
  return svg;
}

/** paint sets custom properties of an element; none are taken off. */
export function paint(e: HTMLElement | SVGElement, of: Record<string, string | undefined>) {
  for (const [name, value] of Object.entries(of)) {
    if (value) e.style.setProperty(name, value);
    else e.style.removeProperty(name);
  }
}

/** name is somebody's name, set apart from the direction of what stands around it. */
export const name = (text: string, look = "") => el("bdi", look, text);

/** lantern is the mark of a person, with their picture or their first letters. */
export function lantern(letters: string, shape?: string, face?: HTMLElement): HTMLElement {
  const body = drawing(
    "0 0 34 44",
    "lantern-shape",
    ["path", { d: "M17 0v7", class: "cord" }],
    ["path", { d: "M10.5 8.500h13", class: "cap" }],
    ["path", { d: "M9 11h16c3.800 3.600 5.400 8 5.400 13.200S28.800 34.400 25 38H9C5.200 34.400 3.600 30 3.600 24.200S5.200 14.600 9 11Z", class: "glass" }],
    ["path", { d: "M12 40.800h10", class: "foot" }],
  );
  const e = el("span", "lantern");
  e.append(body, face ?? el("span", "letters", letters.slice(0, 3)));
  const d = shape && shapes[shape as keyof typeof shapes];
  if (d) e.append(drawing("0 0 12 12", "hangs", ["path", { d, "fill-rule": "evenodd" }]));
  return e;
}
