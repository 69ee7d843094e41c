import { clock } from "../time";

const parts = [0, 0.2, 0.4, 0.6, 0.8, 1];

/** timesOf are the hours below an evening, from its opening to its closing; in a short one a minute stands once. */
export function timesOf(from: number, long: number, zone: string): { part: number; text: string }[] {
  const all = parts.map((part) => ({ part, text: clock(from + part * long, zone) }));
  return all.filter(({ part, text }, i) => part === 0 || part === 1 || (text !== all[i - 1]!.text && text !== all[all.length - 1]!.text));
}

const figures = 36; // px that an hour takes
const word = 44; // and the word behind the first and the last

/** Times writes the hours below a drawing of an evening; a narrow one has room for the first and the last alone, and none stands where something else does. */
export function Times(p: { from: number; long: number; zone: string; left?: number; width: number; y: number; taken?: [from: number, to: number] }) {
  return timesOf(p.from, p.long, p.zone).map(({ part, text }) => {
    const x = (p.left ?? 0) + part * p.width;
    const ends = part === 0 || part === 1;
    const begins = part === 0 ? x : part === 1 ? x - figures - word : x - figures / 2;
    const over = p.taken && begins < p.taken[1] && begins + figures + (ends ? word : 0) > p.taken[0];
    return (
      <text
        key={part}
        x={x}
        y={p.y}
        fontSize="12"
        className="fill-text-2"
        textAnchor={part === 0 ? "start" : part === 1 ? "end" : "middle"}
        opacity={over || (p.width < 590 && !ends) ? 0 : 1}
      >
        {text}
        {part === 0 ? " opened" : part === 1 ? " closed" : ""}
      </text>
    );
  });
}
