import { useId } from "react";

/** An arm of the brittle star: its points, from the disc outwards. */
function arm(turn: number): [number, number][] {
  return Array.from({ length: 27 }, (_, i) => {
    const [r, w] = [22 + i * 4, 9 * Math.sin(i / 3.6 + turn * 2) * (i / 26)];
    return [r * Math.cos(turn) - w * Math.sin(turn), r * Math.sin(turn) + w * Math.cos(turn)];
  });
}
const arms = [0, 1, 2, 3, 4].map((i) => arm(-1.4 + i * 1.257));
const bristles = arms.flatMap((points) =>
  points.slice(2, 26).map(([x, y], k) => {
    const [u, v] = points[k + 3]!;
    const [t, l] = [Math.atan2(v - y, u - x) + Math.PI / 2, 8.5 * (1 - (k + 2) / 34)];
    return `M${(x - l * Math.cos(t)).toFixed(1)} ${(y - l * Math.sin(t)).toFixed(1)}L${(x + l * Math.cos(t)).toFixed(1)} ${(y + l * Math.sin(t)).toFixed(1)}`;
  }),
);

/** Pool is a drawn stream to arrange an overlay over: a brittle star in a dish under the lens. Viewers never see it. */
export function Pool() {
  const dish = useId();
  return (
    <svg className="pool" viewBox="0 0 640 360" preserveAspectRatio="xMidYMid slice" aria-hidden>
      <defs>
        <clipPath id={dish}>
          <circle cx="232" cy="212" r="176" />
        </clipPath>
      </defs>
      <rect width="640" height="360" className="water-1" />
      <path d="M0 0H640V70C560 96 520 60 452 82S340 40 250 62 90 36 0 74Z" className="water-2" />
      <path d="M396 360C420 300 452 318 486 276S560 262 592 222 630 204 640 196V360Z" className="rock-1" />
      <path d="M452 360C474 326 520 330 548 300S612 286 640 262V360Z" className="rock-2" />
      <circle cx="232" cy="212" r="184" className="rim" />
      <g clipPath={`url(#${dish})`}>
        <circle cx="232" cy="212" r="176" className="water-3" />
        <path d="M60 320C120 286 150 330 214 306S330 330 410 290V400H60Z" className="water-2" />
        {[
          [104, 150, 4],
          [128, 136, 7],
          [340, 120, 10],
          [356, 140, 4],
          [310, 322, 7],
          [150, 330, 10],
        ].map(([x, y, r]) => (
          <circle key={`${x} ${y}`} cx={x} cy={y} r={r} className="bubble" />
        ))}
        <g transform="translate(216,226)">
          {arms.map((points, i) => (
            <path key={i} d={`M${points.map(([x, y]) => `${x.toFixed(1)} ${y.toFixed(1)}`).join("L")}`} className="arm" />
          ))}
          <path d={bristles.join("")} className="bristles" />
          <path d="M0-26C15-26 25-15 25 0S15 25 0 25-25 15-25 0-15-26 0-26Z" className="disc" />
          {[0, 1, 2, 3, 4].map((i) => (
            <ellipse key={i} cx="0" cy="-13" rx="5" ry="8.500" className="petal" transform={`rotate(${i * 72 + 10})`} />
          ))}
        </g>
      </g>
    </svg>
  );
}
