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

const texts = (v: unknown): v is string[] => Array.isArray(v) && v.every((x) => typeof x === "string");

/** plain writes a JSON value as somebody would read it; of a list of texts, those that the other side has not. */
function plain(json?: string, other?: string): string[] {
  if (!json) return ["nothing"];
  try {
    const v: unknown = JSON.parse(json);
    if (typeof v === "string") return [v];
    if (typeof v === "boolean") return [v ? "on" : "off"];
    if (texts(v)) {
      const theirs: unknown = other ? JSON.parse(other) : [];
      const own = texts(theirs) ? v.filter((x) => !theirs.includes(x)) : v;
      return own.length ? own : ["without it"];
    }
  } catch {
    /* as it stands */
  }
  return [json.length > 400 ? `${json.slice(0, 400)}…` : json];
}

/** place says where a field stands: the path without its lists. */
const place = (at: string) =>
  at
    .split(".")
    .filter((x, i) => x !== "do" && !(i === 0 && x === "courtesies"))
    .join(" · ");

function Side({ head, lines }: { head: string; lines: string[] }) {
  return (
    <dd>
      <b>{head}</b>
      {lines.map((l) => (
        <bdi key={l}>{l}</bdi>
      ))}
    </dd>
  );
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
                <dt className="sub">{place(x.at)}</dt>
                <Side head="Theirs, in force" lines={plain(x.now, x.mine)} />
                <Side head="Yours" lines={plain(x.mine, x.now)} />
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
