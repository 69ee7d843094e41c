import { clock } from "../time";

const parts = [0, 0.2, 0.4, 0.6, 0.8, 1];

/** timesOf are the hours below an evening, from its opening to its closing; in a short one a minute stands once. */
export function timesOf(from: number, long: number, zone: string): { part: number; text: string }[] {
  const all = parts.map((part) => ({ part, text: clock(from + part * long, zone) }));
  return all.filter(({ part, text }, i) => part === 0 || part === 1 || (text !== all[i - 1]!.text && text !== all[all.length - 1]!.text));
}

/** Times writes the hours below a drawing of an evening; a narrow one has room for the first and the last alone. */
export function Times({ from, long, zone, left = 0, width, y }: { from: number; long: number; zone: string; left?: number; width: number; y: number }) {
  return timesOf(from, long, zone).map(({ part, text }) => (
    <text
      key={part}
      x={left + part * width}
      y={y}
      fontSize="12"
      className="fill-text-2"
      textAnchor={part === 0 ? "start" : part === 1 ? "end" : "middle"}
      opacity={width < 590 && part !== 0 && part !== 1 ? 0 : 1}
    >
      {text}
      {part === 0 ? " opened" : part === 1 ? " closed" : ""}
    </text>
  ));
}
