import { scaleLinear } from "@visx/scale";

/** What is usual: the least, the middle and the most of the streams before. */
export type Range = { least: number; middle: number; most: number };

const wide = 78; // px

/** Usual is a dot against the usual: the range of the streams before as a band, their middle as a tick, this one as a dot. */
export function Usual({ value, usual, name, unit = "" }: { value: number; usual: Range; name: string; unit?: string }) {
  const x = scaleLinear({ domain: [0, Math.max(1, usual.most, value) * 1.1], range: [4, wide - 4] });
  const against =
    value > usual.most
      ? "more than ever of late"
      : value < usual.least
        ? "less than ever of late"
        : value === usual.middle
          ? "as usual"
          : value > usual.middle
            ? "more than usual"
            : "less than usual";
  const words = `${name} ${value}${unit}, ${against}: usually ${usual.middle}${unit}, from ${usual.least} to ${usual.most}`;
  return (
    <svg width={wide} height="16" viewBox={`0 0 ${wide} 16`} role="img" aria-label={words} className="flex-none">
      <title>{words}</title>
      <path d={`M4 8H${wide - 4}`} className="stroke-line" />
      <rect x={x(usual.least)} y="5.5" width={Math.max(3, x(usual.most) - x(usual.least))} height="5" rx="2.5" className="fill-lagoon" opacity=".45" />
      <path d={`M${x(usual.middle)} 2.5v11`} className="stroke-text-2" strokeWidth="1.6" />
      <circle cx={x(value)} cy="8" r="4" className="fill-text stroke-surface" strokeWidth="1.5" />
    </svg>
  );
}
