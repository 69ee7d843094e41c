import { useSyncExternalStore } from "react";

type Note = { id: number; text: string };
let notes: Note[] = [];
let n = 0;
const listeners = new Set<() => void>();
const tell = () => listeners.forEach((l) => l());

/** toast says something in passing, for six seconds. */
export function toast(text: string) {
  const id = ++n;
  notes = [...notes.slice(-3), { id, text }];
  tell();
  setTimeout(() => {
    notes = notes.filter((x) => x.id !== id);
    tell();
  }, 6000);
}

export function Toasts() {
  const list = useSyncExternalStore(
    (l) => {
      listeners.add(l);
      return () => listeners.delete(l);
    },
    () => notes,
  );
  return (
    <div className="toasts" role="status" aria-live="polite">
      {list.map((x) => (
        <div key={x.id} className="toast">
          {x.text}
        </div>
      ))}
    </div>
  );
}
