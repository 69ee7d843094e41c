import { useSyncExternalStore } from "react";
import { clash } from "../api/clash";
import { Button } from "./Button";
import { Dialog } from "./Dialog";

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
    <dd className="grid gap-0.5 [overflow-wrap:anywhere]">
      <b className="text-[12px] text-text-2">{head}</b>
      {lines.map((l) => (
        <bdi key={l}>{l}</bdi>
      ))}
    </dd>
  );
}

/** Clashes asks which of two changes is to stand. */
export function Clashes() {
  const c = useSyncExternalStore(clash.subscribe, clash.current);
  if (!c) return null;
  const close = (then: () => unknown) => {
    clash.set(undefined);
    then();
  };
  return (
    <Dialog title="Somebody else changed this meanwhile" onClose={() => close(c.theirs)}>
      {c.problem.clashes!.map((x) => (
        <dl key={x.at} className="grid grid-cols-2 gap-x-4 gap-y-1 border-t border-line py-2.5">
          <dt className="sub col-span-full">{place(x.at)}</dt>
          <Side head="Theirs, in force" lines={plain(x.now, x.mine)} />
          <Side head="Yours" lines={plain(x.mine, x.now)} />
        </dl>
      ))}
      <div className="flex justify-end gap-2 pt-3">
        <Button onClick={() => close(c.theirs)}>Keep theirs</Button>
        <Button look="lit" onClick={() => close(() => c.mine(c.problem.version ?? 0))}>
          Take mine
        </Button>
      </div>
    </Dialog>
  );
}
