import type { Step } from "../api/client";
import { LanternShape } from "../kit/drawings/Lantern";

const wide = 640;
const high = 132;

/** Cord draws the steps as lanterns on a cord along the porch: each lights when its step is done. */
export function Cord({ steps }: { steps: Step[] }) {
  const done = steps.filter((s) => s.state === "done").length;
  const label = `${done} of ${steps.length} lanterns are lit`;
  const sag = (t: number) => 12 + 46 * 4 * t * (1 - t);
  return (
    <svg viewBox={`0 0 ${wide} ${high}`} className="my-5 w-full max-w-[640px]" role="img" aria-label={label}>
      <title>{label}</title>
      <path d={`M0 12Q${wide / 2} ${12 + 92} ${wide} 12`} fill="none" className="stroke-line" strokeWidth="2" />
      {steps.map((s, i) => {
        const t = (i + 1) / (steps.length + 1);
        return (
          <g key={s.name} transform={`translate(${t * wide - 21} ${sag(t)}) scale(1.25)`}>
            {s.state === "done" && <ellipse cx="17" cy="25" rx="30" ry="27" className="fill-lamp" opacity=".13" />}
            <LanternShape lit={s.state === "done"} />
          </g>
        );
      })}
    </svg>
  );
}
