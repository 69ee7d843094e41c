import { useSyncExternalStore } from "react";

type Act = { label: string; act: () => void };
type Note = { id: number; text: string; act?: Act };
let notes: Note[] = [];
let n = 0;
const listeners = new Set<() => void>();
const tell = () => listeners.forEach((l) => l());

const drop = (id: number) => {
  notes = notes.filter((x) => x.id !== id);
  tell();
};

/** toast says something in passing: for six seconds, or twelve when something can be done about it. */
export function toast(text: string, act?: Act) {
  const id = ++n;
  notes = [...notes.slice(-3), { id, text, act }];
  tell();
  setTimeout(() => drop(id), act ? 12_000 : 6000);
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
          {x.act && (
            <button
              className="why"
              onClick={() => {
                x.act!.act();
                drop(x.id);
              }}
            >
              {x.act.label}
            </button>
          )}
        </div>
      ))}
    </div>
  );
}
