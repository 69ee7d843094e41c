import { useState } from "react";
import type { Dials } from "../api/client";
import { Button } from "../kit/Button";
import { Field } from "../kit/Field";

const dialed: [keyof Dials, string, number, number, number][] = [
  ["peopleMinute", "people a minute", 0, 200, 0.1],
  ["newShare", "of them new, %", 0, 100, 1],
  ["linesMinute", "lines a minute", 0, 400, 1],
  ["raidOf", "people in a raid", 0, 20000, 1],
  ["raidAt", "at minute", 0, 720, 1],
  ["supportHour", "gifts and follows an hour", 0, 600, 1],
  ["dropAt", "the stream drops at minute", 0, 720, 1],
  ["dropMinutes", "for so many minutes", 0, 720, 1],
  ["minutes", "minutes in all", 1, 720, 1],
  ["seed", "chance", 0, 1e9, 1],
];

/** DialsBoard asks what if: dials, the small evening that they make, and one press to live it. */
export function DialsBoard({ usual, learned, dials, onDials }: { usual: Dials; learned: number; dials?: Dials; onDials: (d: Dials) => void }) {
  const [own, setOwn] = useState(usual);
  const on = !!dials;
  const d = dials ?? own;
  const set = (name: keyof Dials, n: number) => {
    const next = { ...d, [name]: n };
    setOwn(next);
    if (on) onDials(next);
  };
  const W = 236;
  const x = (m: number) => (W * Math.min(m, d.minutes)) / Math.max(1, d.minutes);
  const tall = Math.min(34, 6 + 5 * Math.sqrt(d.linesMinute));
  const r = Math.min(34, 4 + 1.8 * Math.sqrt(d.raidOf));
  return (
    <div className="grid gap-2 px-4 pb-3">
      <div className="flex items-center justify-between gap-2 text-[13px]">
        <b>{d.raidOf > 0 ? `What if ${d.raidOf} come at once` : "An evening by dials"}</b>
        <Button size="s" on={on} onClick={() => onDials(d)}>
          {on ? "lived" : "Rehearse it"}
        </Button>
      </div>
      <svg width={W} height="48" viewBox={`0 0 ${W} 48`} aria-hidden className="block">
        <path d={`M0 46C${W * 0.15} ${46 - tall} ${W * 0.4} ${46 - tall} ${W * 0.6} ${46 - tall * 0.8}S${W} 40 ${W} 46Z`} className="fill-lagoon" opacity=".25" />
        <path d={`M0 46H${W}`} className="stroke-line" />
        {d.raidOf > 0 && <path d={`M${x(d.raidAt) - r} 46A${r} ${r} 0 0 1 ${x(d.raidAt) + r} 46`} fill="none" className="stroke-marigold" strokeWidth="2" />}
        {d.dropAt > 0 && <path d={`M${x(d.dropAt)} 46H${x(d.dropAt + Math.max(1, d.dropMinutes))}`} className="stroke-persimmon" strokeWidth="3" />}
      </svg>
      <div className="grid grid-cols-2 gap-x-3 gap-y-1.5">
        {dialed.map(([name, words, least, most, step]) => (
          <label key={name} className="grid gap-0.5 text-[12px] text-text-2">
            <Field
              type="number"
              size="s"
              min={least}
              max={most}
              step={step}
              value={name === "newShare" ? Math.round(d.newShare * 100) : d[name]}
              onChange={(e) => {
                const n = e.target.valueAsNumber;
                if (!Number.isNaN(n)) set(name, name === "newShare" ? Math.min(100, Math.max(0, n)) / 100 : Math.min(most, Math.max(least, n)));
              }}
            />
            {words}
          </label>
        ))}
      </div>
      <span className="sub">
        {learned > 0 ? `Its shape is learned from your last ${learned} streams.` : "You had no stream yet: it is a plain evening."} Everybody in it is made up.
      </span>
    </div>
  );
}
