import { useId, type ReactNode } from "react";
import { useQuery } from "@tanstack/react-query";
import type { Box } from "../../../overlay/frames";
import { media } from "../../../api/queries";
import { One } from "../../../kit/One";
import { RadioGroup } from "../../../kit/RadioGroup";

/** What the form of a kind of box is handed. */
export interface FormOf {
  box: Box;
  /** set changes it; with keep false it is drawn, and kept once it is let go. */
  set: (part: Partial<Box>, keep?: boolean) => void;
}

/** Row is a setting of a box, with its name before it. */
export function Row({ label, children }: { label: string; children: ReactNode }) {
  const id = useId();
  return (
    <div className="row" role="group" aria-labelledby={id}>
      <span className="label" id={id}>
        {label}
      </span>
      <div className="min-w-0">{children}</div>
    </div>
  );
}

/** Few chooses one of a few words that are all seen. */
export function Few<T extends string>({
  label,
  value,
  of,
  onPick,
  words,
}: {
  label: string;
  value: T;
  of: readonly T[];
  onPick: (v: T) => void;
  words?: Partial<Record<T, string>>;
}) {
  return (
    <RadioGroup
      label={label}
      className="few [&>button]:rounded-lg [&>button]:px-2 [&>button]:py-0.5 [&>button]:text-[12.5px]"
      value={value}
      onChange={onPick}
      options={of.map((v) => ({ value: v, label: words?.[v] ?? v, name: words?.[v] ?? v }))}
    />
  );
}

/** Type sets how large words are, in pixels of the overlay. */
export function Type({ box, set, usual, of }: FormOf & { usual: number; of: string }) {
  const size = box.size || usual;
  return (
    <Row label="Type">
      <span className="few">
        <Slide label={`How large ${of} is`} least={12} most={160} value={size} onChange={(n, keep) => set({ size: n }, keep)} />
        <span className="tabular-nums">{size} px</span>
        <span className="sub">{of}</span>
      </span>
    </Row>
  );
}

/** FromShelf chooses a file of a kind from the shelf, or none. */
export function FromShelf({
  label,
  kind,
  value,
  none,
  onPick,
}: {
  label: string;
  kind: "picture" | "film" | "sound";
  value?: string;
  none: string;
  onPick: (name?: string) => void;
}) {
  const q = useQuery(media);
  const list = (q.data?.items ?? []).filter((m) => m.kind === kind).map((m): [string, string] => [m.name, m.name]);
  return <One label={label} value={value ?? ""} list={[["", none], ...list]} onPick={(v) => onPick(v || undefined)} />;
}

/** Slide sets a number by drawing it out; it is kept once it is let go. */
export function Slide({ label, value, least, most, onChange }: { label: string; value: number; least: number; most: number; onChange: (n: number, keep: boolean) => void }) {
  const done = (e: { currentTarget: HTMLInputElement }) => onChange(Number(e.currentTarget.value), true);
  return (
    <input
      type="range"
      min={least}
      max={most}
      value={value}
      aria-label={label}
      className="w-28"
      onChange={(e) => onChange(Number(e.target.value), false)}
      onPointerUp={done}
      onKeyUp={done}
    />
  );
}

/** Colour sets a colour; it is kept once its field is left. */
export function Colour({ label, value, onChange }: { label: string; value: string; onChange: (c: string, keep: boolean) => void }) {
  return <input type="color" value={value} aria-label={label} onChange={(e) => onChange(e.target.value, false)} onBlur={(e) => onChange(e.target.value, true)} />;
}
