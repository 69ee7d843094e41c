import type { Waiting } from "../api/client";
import { useHeld } from "../api/deeds";
import { Button } from "../kit/Button";

/** idOf is the id of a held line, by what waits. */
export const idOf = (w: Waiting) => w.item.slice("held/".length);

/** Held is a line that waits: why, and what becomes of it. The oldest is decided by key, too. */
export function Held({ w, first }: { w: Waiting; first: boolean }) {
  const decide = useHeld();
  return (
    <div className="grid gap-1.5 py-1">
      <bdi className="[overflow-wrap:anywhere]">“{w.why}”</bdi>
      <span className="sub">{w.of}</span>
      <span className="flex gap-1.5">
        <Button size="s" look="lit" onClick={() => decide([idOf(w)], true)}>
          Allow {first && <kbd>A</kbd>}
        </Button>
        <Button size="s" onClick={() => decide([idOf(w)], false)}>
          Remove {first && <kbd>R</kbd>}
        </Button>
      </span>
    </div>
  );
}

/** HeldAll decides all held lines at once, where there are several. */
export function HeldAll({ list }: { list: Waiting[] }) {
  const decide = useHeld();
  if (list.length < 2) return null;
  return (
    <div className="flex items-center gap-1.5 px-4 py-1.5" role="group" aria-label="All lines that are held">
      <span className="sub flex-1">{list.length} lines are held</span>
      <Button size="s" onClick={() => decide(list.map(idOf), true)}>
        Allow all
      </Button>
      <Button size="s" onClick={() => decide(list.map(idOf), false)}>
        Remove all
      </Button>
    </div>
  );
}
