/** An evening of the past: lines by people each minute, and its raids at minutes since the opening. */
export type Evening = { minutes: number[]; raids: { at: number; viewers: number }[] };

const wide = 226; // px of the longest evening
const high = 17;
const ground = 15;

/** SmallEvening draws a past stream as a small evening line, as long as it was beside the longest: chat as a hill, raids as arcs. */
export function SmallEvening({ evening, longest, lit, label }: { evening: Evening; longest: number; lit?: boolean; label: string }) {
  const { minutes, raids } = evening;
  const w = (wide * minutes.length) / Math.max(1, longest, minutes.length);
  const x = (m: number) => (m / Math.max(1, minutes.length)) * w;
  const tall = Math.max(8, ...minutes);
  let hill = `M0 ${ground}`;
  minutes.forEach((_, i) => {
    const v = ((minutes[i - 1] ?? 0) + 2 * minutes[i]! + (minutes[i + 1] ?? 0)) / 4; // over three minutes, so that it stays a hill
    hill += `L${x(i + 0.5).toFixed(1)} ${(ground - (v / tall) * 11).toFixed(1)}`;
  });
  return (
    <svg width={wide} height={high} viewBox={`0 0 ${wide} ${high}`} role="img" aria-label={label} className="block overflow-visible">
      <title>{label}</title>
      <path d={`${hill}L${w.toFixed(1)} ${ground}Z`} className="fill-lagoon" opacity={lit ? 0.34 : 0.24} />
      <path d={`M0 ${ground}H${w.toFixed(1)}`} className={lit ? "stroke-text-3" : "stroke-line"} />
      {raids.map((r) => {
        const half = Math.min(11, 1.2 * Math.sqrt(r.viewers)); // by square root, capped, as on the evening line
        return (
          <path
            key={r.at}
            d={`M${(x(r.at) - half).toFixed(1)} ${ground}A${half} ${half} 0 0 1 ${(x(r.at) + half).toFixed(1)} ${ground}`}
            fill="none"
            className="stroke-marigold"
            strokeWidth="1.6"
          />
        );
      })}
    </svg>
  );
}
