import { el, name, paint } from "../dom";
import type { Kind } from "../view";

const usual: Record<string, string> = { followers: "Last to follow", tippers: "Last tip", raiders: "Last raid", subscribers: "Last to subscribe" };

/** last is who did something last. */
export const last: Kind = (at, box) => {
  paint(at, { "--size": `${box.size || 40}px` });
  const who = el("p", "who");
  const plate = el("div", "last plate", el("span", "label", box.label || usual[box.what as string] || ""), who);
  at.replaceChildren(plate);
  const board = (value: unknown) => {
    const v = value as { name?: string; much?: string };
    plate.classList.toggle("nobody", !v.name);
    who.replaceChildren(name(v.name ?? ""), el("span", "much", v.much ? ` ${v.much}` : ""));
  };
  board({});
  return { board, sample: (on) => on && board({ name: "periwinkle_pat", much: box.what === "tippers" ? "12.50 EUR" : box.what === "raiders" ? "42" : undefined }) };
};
