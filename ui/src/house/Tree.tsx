import { useState, type ReactNode } from "react";
import { Popover, Pop } from "../kit/Pop";
import { pathWords, plainly, step, type Json } from "./pointing";

/** What can be said of a value that is pointed at. */
export type Says = { label: string; hint?: ReactNode; off?: boolean; act: () => void }[];

/** Tree shows a message as it came; whatever stands in it can be pointed at. marks say what a pointer was said to be. */
export function Tree({ message, marks, says }: { message: Json; marks: Map<string, string>; says: (pointer: string, value: Json) => Says }) {
  return (
    <ul className="tree" aria-label="The message, as it came">
      <Branch at="" value={message} name="" marks={marks} says={says} />
    </ul>
  );
}

type Props = { at: string; value: Json; name: string; marks: Map<string, string>; says: (pointer: string, value: Json) => Says };

const mostShown = 60; // of a list or an object, at once

function Branch({ at, value, name, marks, says }: Props) {
  const [all, setAll] = useState(false);
  if (value === null || typeof value !== "object") return <Leaf {...{ at, value, name, marks, says }} />;
  const inner: [string, Json][] = Array.isArray(value) ? value.map((v, i) => [String(i), v]) : Object.entries(value);
  const shown = all ? inner : inner.slice(0, mostShown);
  return (
    <li>
      {at && <span className="sub">{Array.isArray(value) ? `${name}, a list` : name}</span>}
      <ul>
        {shown.map(([k, v]) => (
          <Branch key={k} at={step(at, k)} value={v} name={k} marks={marks} says={says} />
        ))}
        {shown.length < inner.length && (
          <li>
            <button className="leaf sub" onClick={() => setAll(true)}>
              {inner.length - shown.length} more
            </button>
          </li>
        )}
      </ul>
    </li>
  );
}

function Leaf({ at, value, name, marks, says }: Props) {
  const [open, setOpen] = useState(false);
  const is = marks.get(at);
  const text = plainly(value) ?? "nothing";
  return (
    <li>
      <Pop
        label={`What is ${pathWords(at)}?`}
        width="s"
        pad="s"
        align="start"
        open={open}
        onOpenChange={setOpen}
        trigger={
          <button className="leaf" data-is={!!is || undefined}>
            <span className="sub">{name || "the whole"}</span> <bdi className={value === null ? "muted" : ""}>{text.length > 200 ? `${text.slice(0, 198)}…` : text}</bdi>
            {is && <b> {is}</b>}
          </button>
        }
      >
        <p className="sub m-0 px-2 pt-1 pb-1.5">What is it?</p>
        <div className="scroll grid max-h-80">
          {says(at, value).map((s) => (
            <Popover.Close key={s.label} asChild>
              <button className="pick text-left" aria-label={s.label} disabled={s.off} onClick={s.act}>
                <span className="flex-1">{s.label}</span>
                {s.hint && <span className="sub">{s.hint}</span>}
              </button>
            </Popover.Close>
          ))}
        </div>
      </Pop>
    </li>
  );
}
