import { Dialog } from "radix-ui";
import { useSyncExternalStore } from "react";
import type { Problem } from "../api/client";

type Clash = { problem: Problem; mine: (version: number) => void; theirs: () => void };
let open: Clash | undefined;
const listeners = new Set<() => void>();
const set = (next?: Clash) => {
  open = next;
  listeners.forEach((l) => l());
};

/** clashed shows a problem that is a clash with what somebody else changed, with both sides to choose from; false for any other problem. */
export function clashed(p: unknown, mine: (version: number) => void, theirs: () => void): boolean {
  const problem = p as Problem | undefined;
  if (!problem?.clashes?.length) return false;
  set({ problem, mine, theirs });
  return true;
}

/** plain writes a JSON value as somebody would read it. */
function plain(json?: string): string {
  if (!json) return "nothing";
  try {
    const v: unknown = JSON.parse(json);
    if (typeof v === "string") return v;
    if (typeof v === "boolean") return v ? "on" : "off";
    if (Array.isArray(v) && v.every((x) => typeof x === "string")) return v.join(" · ");
  } catch {
    /* as it stands */
  }
  return json.length > 400 ? `${json.slice(0, 400)}…` : json;
}

export function Clashes() {
  const c = useSyncExternalStore(
    (l) => {
      listeners.add(l);
      return () => listeners.delete(l);
    },
    () => open,
  );
  if (!c) return null;
  const close = (then: () => void) => {
    set();
    then();
  };
  return (
    <Dialog.Root open onOpenChange={(o) => !o && close(c.theirs)}>
      <Dialog.Portal>
        <Dialog.Overlay className="veil" />
        <Dialog.Content className="pop clash" aria-describedby={undefined}>
          <Dialog.Title className="text-lg">Somebody else changed this meanwhile</Dialog.Title>
          <div className="clashes">
            {c.problem.clashes!.map((x) => (
              <dl key={x.at}>
                <dt className="sub">{x.at}</dt>
                <dd>
                  <b>Theirs, in force</b>
                  <bdi>{plain(x.now)}</bdi>
                </dd>
                <dd>
                  <b>Yours</b>
                  <bdi>{plain(x.mine)}</bdi>
                </dd>
              </dl>
            ))}
          </div>
          <div className="flex justify-end gap-2 pt-3">
            <button className="btn" onClick={() => close(c.theirs)}>
              Keep theirs
            </button>
            <button className="btn lit" onClick={() => close(() => c.mine(c.problem.version ?? 0))}>
              Take mine
            </button>
          </div>
        </Dialog.Content>
      </Dialog.Portal>
    </Dialog.Root>
  );
}
