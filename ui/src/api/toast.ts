/** What is said in passing, at the foot of the page, until it has been read. */
export type Note = { id: number; text: string; act?: { label: string; act: () => void } };

const most = 4; // said at once
let notes: Note[] = [];
let last = 0;
const listeners = new Set<() => void>();

function set(next: Note[]) {
  notes = next;
  listeners.forEach((l) => l());
}

/** toast says something in passing, with one thing that can be done about it. */
export function toast(text: string, act?: Note["act"]) {
  set([...notes.slice(1 - most), { id: ++last, text, act }]);
}

/** heard takes a note away. */
export const heard = (id: number) => set(notes.filter((n) => n.id !== id));

export const inPassing = {
  subscribe(l: () => void) {
    listeners.add(l);
    return () => listeners.delete(l);
  },
  current: () => notes,
};
