import { store } from "./store";

/** What is said in passing, at the foot of the page, until it has been read. */
export type Note = { id: number; text: string; act?: { label: string; act: () => void } };

const most = 4; // said at once
let last = 0;

export const inPassing = store<Note[]>([]);

/** toast says something in passing, with one thing that can be done about it. */
export function toast(text: string, act?: Note["act"]) {
  inPassing.set([...inPassing.current().slice(1 - most), { id: ++last, text, act }]);
}

/** heard takes a note away. */
export const heard = (id: number) => inPassing.set(inPassing.current().filter((n) => n.id !== id));
